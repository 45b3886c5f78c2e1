"""The WSGI application that the web server runs."""

import os

from django.core.wsgi import get_wsgi_application

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "shapkeen.web.config.settings")
application = get_wsgi_application()

from ..serving import warming  # noqa: E402  (they are Django's, and that is set up above)
from ..work import ready  # noqa: E402

# Whoever clicks first need not wait for libraries to load, nor for views and templates.
ready.prepare()
warming.warm()
