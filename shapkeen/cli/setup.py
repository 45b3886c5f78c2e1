"""`shapkeen check-setup`: what an installation has and lacks, in plain words."""

import argparse
import json
import os

LACKING = 70
"""Nothing is wrong with any file: it is the installation that cannot work."""


def run_check_setup(call: argparse.Namespace) -> int:
    """Print every check; returns 0 where all is there, LACKING where not."""
    import django

    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "shapkeen.web.config.settings")
    django.setup()
    from ..web.upkeep.setup import advice, everything

    found = everything()
    if call.json:
        told = [{"name": one.name, "well": one.is_well, "text": one.words} for one in found]
        answer = {"schema": "shapkeen.setup/1", "checks": told, "hints": list(advice())}
        print(json.dumps(answer, ensure_ascii=False))
    else:
        for one in found:
            print(f"{'has  ' if one.is_well else 'LACKS'}  {one.words}")
        for words in advice():
            print(f"hint   {words}")
    return 0 if all(one.is_well for one in found) else LACKING
