"""Make the faces of reports from whole ones: what our words and figures need, as woff2.

Development only: `python tools/faces.py FOLDER`, where FOLDER holds the whole faces as woff2 (npm:
@ibm/plex-sans-condensed 2.0.0, @ibm/plex-mono 2.5.0, fonts/complete/woff2). Results are committed.
"""

import sys
from pathlib import Path

from fontTools import subset

GOAL = Path(__file__).parents[1] / "shapkeen/core/reported/report/sheet"
FACES = {
    "IBMPlexSansCondensed-Regular.woff2": "plex-condensed-400.woff2",
    "IBMPlexSansCondensed-Medium.woff2": "plex-condensed-500.woff2",
    "IBMPlexMono-Regular.woff2": "plex-mono-400.woff2",
}
SIGNS = (
    "U+0020-017F,U+0192,U+0394,U+03A9,U+03BC,U+2010-2027,U+2030,U+2032,U+2033,U+2039,U+203A,U+2044,"
    "U+20AC,U+2122,U+2153,U+2154,U+2190-2193,U+2202,U+2206,U+2211,U+2212,U+221A,U+221E,U+2248,"
    "U+2260,U+2264,U+2265,U+25CA"
)
"""Latin with its extension, and the signs of units, fractions, relations and arrows."""


def main() -> int:
    """Write every face."""
    for source, goal in FACES.items():
        subset.main(
            [
                str(Path(sys.argv[1]) / source),
                f"--unicodes={SIGNS}",
                "--flavor=woff2",
                "--layout-features=kern,mark,mkmk,tnum,liga",
                f"--output-file={GOAL / goal}",
            ]
        )
    return 0


if __name__ == "__main__":
    sys.exit(main())
