"""What the demo holds: nine titles, and exports of which some were injured on the way.

Names of receivers are invented. `change` names an act of changes.py; tags are injured by the
recipe itself.
"""

from .feature import Export, Feature, files_of
from .flat import FLAT
from .immersive import ROUND

FEATURES = (*FLAT, *ROUND)

__all__ = ["FEATURES", "Export", "Feature", "files_of"]
