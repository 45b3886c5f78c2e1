"""The cheapest way through a band against every way there is, and what a process needs for it."""

import subprocess
import sys
import unittest
from itertools import pairwise, product
from pathlib import Path

import numpy as np

from shapkeen.core.measured.time.cheapest import cheapest_way
from tests.builders import media
from tests.core.measured.test_pair_pass import export, master

WIDTH, PENALTY = 5, 0.3
LOADED = """
import sys
from pathlib import Path
from shapkeen.core.compared import survey_files
from shapkeen.core.measured.pair_pass import engine
from shapkeen.core.measured.spans.run import processes
engine.LEAST_POOLED_SAMPLES = engine.LONG_FRAMES = 1  # as if the files were long
if __name__ == "__main__":
    made = survey_files(*map(Path, sys.argv[1:]), pool=processes(2))
    print(made.survey.timing is not None, {"numba", "scipy"} & set(sys.modules))
"""


def charge(apart: int) -> float:
    return PENALTY * (1 + 0.1 * (apart - 1)) if apart else 0.0


def price(way: tuple[int, ...], table: np.ndarray, rows: np.ndarray) -> float:
    """Return what a way costs by the definition; endless where it goes back."""
    total = charge(abs(way[0] - WIDTH // 2)) + table[0, way[0]]
    for i, (before, now) in enumerate(pairwise(way), start=1):
        if before != now and before > now + rows[i] - rows[i - 1]:
            return np.inf
        total += charge(abs(now - before)) + table[i, now]
    return total


class CheapestWay(unittest.TestCase):
    def test_none_of_all_ways_is_cheaper(self) -> None:
        random = np.random.default_rng(7)
        for steps in ((1, 1, 1, 1), (2, 1, 2, 1), (0, 1, 0, 3), (1, 40, 1, 1)):
            rows = np.concatenate([[3], 3 + np.cumsum(steps)])
            for _ in range(4):
                table = random.random((5, WIDTH)) ** 2
                blocks = ((first, table[first : first + 2]) for first in range(0, 5, 2))
                way = cheapest_way(blocks, rows, WIDTH, PENALTY)
                every = product(range(WIDTH), repeat=5)
                least = min(price(one, table, rows) for one in every)
                with self.subTest(steps):
                    self.assertAlmostEqual(price(tuple(way), table, rows), least, 12)

    def test_a_frame_that_lacks_moves_the_way_by_one(self) -> None:
        # by hand: the other file shows frame i + 1 from row 4 on, so the way moves one column on
        rows = np.arange(9)
        table = np.ones((9, WIDTH))
        table[np.arange(9), np.where(rows < 4, 2, 3)] = 0.0
        way = cheapest_way([(0, table)], rows, WIDTH, PENALTY)
        self.assertEqual(way.tolist(), [2, 2, 2, 2, 3, 3, 3, 3, 3])

    def test_sharing_out_work_loads_no_compiler(self) -> None:
        script = Path(media.temporary("shares-out.py", LOADED.encode()))
        pair = [str(one.path) for one in (master("intra"), export("open"))]
        call = [sys.executable, "-W", "ignore", str(script), *pair]
        told = subprocess.run(call, capture_output=True, text=True, check=True)
        self.assertEqual(told.stdout.strip(), "True set()")
