"""Django settings. What differs between installations is in conf.py."""

import os
import sys
from datetime import timedelta

from csp.constants import NONE, SELF

from . import conf

CONF = conf.load()
# Read by the compiler at import, in this process and in every child.
os.environ.setdefault("NUMBA_CACHE_DIR", str(CONF.kernel_dir))
BASE_DIR = conf.BASE_DIR
TESTING = "test" in sys.argv

SECRET_KEY = conf.secret_key(CONF.data_dir)
DEBUG = False
ALLOWED_HOSTS = ["testserver", *CONF.hosts] if TESTING else CONF.hosts

INSTALLED_APPS = [
    "django.contrib.auth",
    "django.contrib.contenttypes",
    "django.contrib.sessions",
    "django.contrib.messages",
    "django.contrib.staticfiles",
    "django_htmx",
    "axes",
    "django_tasks",
    "django_tasks_db",
    "csp",
    "shapkeen.web.people",
    "shapkeen.web.history",
    "shapkeen.web.work",
    "shapkeen.web.library",
    "shapkeen.web.bench.apps.BenchConfig",
    "shapkeen.web.look.apps.LookConfig",
    "shapkeen.web.plan",
    "shapkeen.web.versions.apps.VersionsConfig",
    "shapkeen.web.rehearsal.apps.RehearsalConfig",
    "shapkeen.web.signoff.apps.SignoffConfig",
    "shapkeen.web.reports.apps.ReportsConfig",
    "shapkeen.web.archive.apps.ArchiveConfig",
    "shapkeen.web.arriving",
    "shapkeen.web.notices",
    "shapkeen.web.many",
    "shapkeen.web.hooks.apps.HooksConfig",
    "shapkeen.web.upkeep",
    "shapkeen.web.api",
    "shapkeen.web.accounts",
    "shapkeen.web.serving",
    "shapkeen.web.search.apps.SearchConfig",
]
MIDDLEWARE = [
    "django.middleware.security.SecurityMiddleware",
    "whitenoise.middleware.WhiteNoiseMiddleware",
    "csp.middleware.CSPMiddleware",
    "django.contrib.sessions.middleware.SessionMiddleware",
    "django.middleware.common.CommonMiddleware",
    "django.contrib.auth.middleware.AuthenticationMiddleware",
    "shapkeen.web.api.middleware.tokens",
    "shapkeen.web.serving.middleware.private_pages",
    # Before what reads a body: 200 MB from nobody would be on the disk before they are refused.
    "shapkeen.web.serving.middleware.refuse_bodies",
    "django.middleware.csrf.CsrfViewMiddleware",
    "shapkeen.web.serving.guard.Guard",
    "django.contrib.auth.middleware.LoginRequiredMiddleware",
    "django.contrib.messages.middleware.MessageMiddleware",
    "django.middleware.clickjacking.XFrameOptionsMiddleware",
    "django_htmx.middleware.HtmxMiddleware",
    "axes.middleware.AxesMiddleware",
]
ROOT_URLCONF = "shapkeen.web.config.urls"
WSGI_APPLICATION = "shapkeen.web.config.wsgi.application"
TEMPLATES = [
    {
        "BACKEND": "django.template.backends.django.DjangoTemplates",
        "DIRS": [BASE_DIR / "shapkeen/web/templates"],
        "OPTIONS": {
            "context_processors": [
                "django.template.context_processors.request",
                "django.contrib.auth.context_processors.auth",
                "django.contrib.messages.context_processors.messages",
                "shapkeen.web.serving.guard.rights",
            ],
            "builtins": [
                "shapkeen.web.library.templatetags.shown",
                "shapkeen.web.look.templatetags.pictured",
                "shapkeen.web.rehearsal.templatetags.rehearsed",
                "shapkeen.web.signoff.templatetags.signed",
            ],
        },
    }
]
DATABASES = {
    "default": {
        "ENGINE": "django.db.backends.sqlite3",
        "NAME": CONF.database,
        "OPTIONS": {
            # FULL: what was acknowledged is on the disk, whatever happens to the power.
            # IMMEDIATE: a read that turns into a write would otherwise fail under load.
            "transaction_mode": "IMMEDIATE",
            "timeout": 20,
            "init_command": (
                "PRAGMA journal_mode=WAL; PRAGMA synchronous=FULL; PRAGMA foreign_keys=ON;"
                "PRAGMA busy_timeout=20000; PRAGMA cache_size=-20000;"
            ),
        },
    }
}
DEFAULT_AUTO_FIELD = "django.db.models.BigAutoField"
TASKS = {"default": {"BACKEND": "django_tasks_db.DatabaseBackend", "QUEUES": ["default"]}}

if TESTING:
    # What makes guessing dear makes every test that makes a person take a third of a second more.
    PASSWORD_HASHERS = ["django.contrib.auth.hashers.MD5PasswordHasher"]
AUTH_PASSWORD_VALIDATORS = [
    {"NAME": "django.contrib.auth.password_validation.MinimumLengthValidator"},
    {"NAME": "django.contrib.auth.password_validation.CommonPasswordValidator"},
]
AUTHENTICATION_BACKENDS = [
    "axes.backends.AxesStandaloneBackend",
    "django.contrib.auth.backends.ModelBackend",
]
AXES_FAILURE_LIMIT = 8
AXES_COOLOFF_TIME = timedelta(minutes=5)
AXES_LOCKOUT_PARAMETERS = [["username", "ip_address"]]
AXES_RESET_ON_SUCCESS = True
AXES_RESET_COOL_OFF_ON_FAILURE_DURING_LOCKOUT = False
AXES_DISABLE_ACCESS_LOG = True
AXES_VERBOSE = False
AXES_LOCKOUT_TEMPLATE = "account/throttled.html"
LOGIN_URL = "login"
LOGIN_REDIRECT_URL = "library:shelf"
LOGOUT_REDIRECT_URL = "login"
SESSION_COOKIE_SAMESITE = "Lax"
SESSION_COOKIE_SECURE = CSRF_COOKIE_SECURE = CONF.is_behind_tls
CSRF_TRUSTED_ORIGINS = CONF.origins
SECURE_HSTS_SECONDS = 3600 * 24 * 365 if CONF.is_behind_tls else 0
# Only behind a proxy that says how it was asked: without its word every page would go in circles.
SECURE_SSL_REDIRECT = CONF.is_behind_tls and CONF.has_proxy
# Whether other hosts of the domain, and browsers' own lists, are to be bound is not ours to say.
SILENCED_SYSTEM_CHECKS = ["security.W005", "security.W021"]
if CONF.has_proxy:
    # Only then: anyone who reaches the server itself could say so.
    SECURE_PROXY_SSL_HEADER = ("HTTP_X_FORWARDED_PROTO", "https")
TEST_RUNNER = "tests.runner.Runner"
CSRF_COOKIE_HTTPONLY = False  # the page's script sends it with each upload
X_FRAME_OPTIONS = "DENY"

CONTENT_SECURITY_POLICY = {
    "DIRECTIVES": {
        "default-src": [NONE],
        "script-src": [SELF],
        "style-src": [SELF],
        # data: is needed by Bootstrap's own style sheet (check marks, close signs).
        # blob: a still is fetched as an answer, so that a refusal's own words can be shown.
        "img-src": [SELF, "data:", "blob:"],
        "font-src": [SELF],
        # A proxy is fetched whole, so that it can be moved about in.
        "media-src": [SELF, "blob:"],
        "connect-src": [SELF],
        "form-action": [SELF],
        "base-uri": [NONE],
        "frame-ancestors": [NONE],
        "object-src": [NONE],
    }
}

STATIC_URL = "static/"
STATIC_ROOT = CONF.data_dir / "static"
STATICFILES_DIRS = [
    BASE_DIR / "shapkeen/web/static",
    BASE_DIR / "shapkeen/core/reported/figures/style",
]
_STORE = "shapkeen.web.serving.static_files.PackedStaticFiles"
_PLAIN = "django.contrib.staticfiles.storage.StaticFilesStorage"
STORAGES = {
    "default": {"BACKEND": "django.core.files.storage.FileSystemStorage"},
    "staticfiles": {"BACKEND": _PLAIN if TESTING else _STORE},
}
FILE_UPLOAD_HANDLERS = ["shapkeen.web.library.uploads.ReelUploadHandler"]
DATA_UPLOAD_MAX_NUMBER_FILES = 1

LANGUAGE_CODE = "en-gb"
TIME_ZONE = "UTC"
USE_TZ = True
# Everything is said in one language; asking for it at every number took a tenth of a page.
USE_I18N = False
LOGGING = {
    "version": 1,
    "disable_existing_loggers": False,
    "formatters": {
        "text": {"format": "%(asctime)s %(levelname)s %(name)s: %(message)s"},
        "json": {"()": "shapkeen.web.config.logs.JsonLines"},
    },
    "handlers": {"console": {"class": "logging.StreamHandler", "formatter": CONF.log_form}},
    "loggers": {
        "django": {"level": "CRITICAL" if TESTING else "WARNING"},
        # Every property of a drawing that only drawings know.
        "weasyprint": {"level": "ERROR"},
        "fontTools": {"level": "ERROR"},
    },
    "root": {"handlers": ["console"], "level": "ERROR" if TESTING else "WARNING"},
}
