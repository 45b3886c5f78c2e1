"""Spheres against the formulas, worked examples, and two general-purpose libraries."""

import unittest

import av
import cv2
import numpy as np
from skimage import data

from shapkeen.core.geometry.sphere import (
    SPHERES,
    Turn,
    degrees_a_sample,
    directions,
    places,
    samples_a_degree,
    samples_in_view,
    turn_from_matrix,
    turned_places,
    window_directions,
    window_width,
)


def through_ffmpeg(picture: np.ndarray, options: str) -> np.ndarray:
    """Return a picture as the FFmpeg libraries' spherical filter lays it out."""
    graph = av.filter.Graph()
    height, width = picture.shape
    source = graph.add_buffer(width=width, height=height, format="gray", time_base="1/25")
    steps = [graph.add("v360", options), graph.add("format", "gray"), graph.add("buffersink")]
    for one, other in zip([source, *steps], steps, strict=False):
        one.link_to(other)
    graph.configure()
    graph.push(av.VideoFrame.from_ndarray(picture, format="gray"))
    return graph.pull().to_ndarray(format="gray")


def drawn(picture: np.ndarray, columns: np.ndarray, rows: np.ndarray) -> np.ndarray:
    """Return a picture sampled at places by OpenCV's remapping, edges wrapped round."""
    maps = columns.astype(np.float32), rows.astype(np.float32)
    return cv2.remap(picture, *maps, cv2.INTER_LINEAR, borderMode=cv2.BORDER_WRAP)


# Smooth, for the filter is asked for its nearest sample: its linear interpolation is coarse.
PICTURE = cv2.resize(cv2.GaussianBlur(data.astronaut()[..., 1], (0, 0), 12), (1024, 512))


class Spheres(unittest.TestCase):
    def test_lays_out_what_a_turned_sphere_shows_as_ffmpeg_does(self) -> None:
        # v360 turns the viewer: content goes the other way round.
        for turn, options in (
            (Turn(yaw=90), "e:e:yaw=-90"),
            (Turn(yaw=-17.3), "e:e:yaw=17.3"),
            (Turn(pitch=12), "e:e:pitch=-12"),
            (Turn(roll=20), "e:e:roll=-20"),
        ):
            with self.subTest(turn):
                here = drawn(PICTURE, *turned_places(turn, (1024, 512)))
                there = through_ffmpeg(PICTURE, f"{options}:interp=near")
                apart = np.abs(here.astype(int) - there.astype(int))[8:-8]
                self.assertLess(np.percentile(apart, 99), 3.1)

    def test_shows_through_a_flat_window_what_ffmpeg_shows(self) -> None:
        looking = Turn(yaw=40, pitch=25)
        ways = window_directions((320, 180), 90, looking)
        here = drawn(PICTURE, *places(ways, (1024, 512)))
        options = "e:flat:yaw=40:pitch=25:h_fov=90:v_fov=58.7155:w=320:h=180:interp=near"
        apart = np.abs(here.astype(int) - through_ffmpeg(PICTURE, options).astype(int))
        self.assertLess(np.percentile(apart, 99), 3.1)

    def test_finds_a_sample_where_its_direction_lies(self) -> None:
        columns, rows = places(directions((64, 32)), (64, 32))
        np.testing.assert_allclose(columns, np.tile(np.arange(64), (32, 1)), atol=1e-9)
        np.testing.assert_allclose(rows, np.tile(np.arange(32), (64, 1)).T, atol=1e-6)

    def test_shifts_by_yaw_as_the_worked_example_does(self) -> None:
        # arithmetic of equirectangular pictures: 90 degrees = 1024 samples in 4096
        columns, _ = turned_places(Turn(yaw=90), (4096, 16))
        self.assertAlmostEqual(columns[8, 2048], 1024, 6)

    def test_takes_a_turn_apart_again(self) -> None:
        for turn in (Turn(10, 20, 30), Turn(-170, -5, 2), Turn(0, 80, -60)):
            again = turn_from_matrix(turn.matrix())
            for name in ("yaw", "pitch", "roll"):
                self.assertAlmostEqual(getattr(again, name), getattr(turn, name), 9)

    def test_tells_what_a_viewer_gets_by_the_worked_examples(self) -> None:
        # arithmetic of equirectangular pictures, raster by raster
        for width, degrees, density, mean, centre in (
            (1920, 0.1875, 5.3333, 480, 611.2),
            (3840, 0.09375, 10.6667, 960, 1222.3),
            (4096, 0.0878906, 11.3778, 1024, 1303.8),
            (7680, 0.046875, 21.3333, 1920, 2444.6),
        ):
            self.assertAlmostEqual(degrees_a_sample(width), degrees, 7)
            self.assertAlmostEqual(samples_a_degree(width), density, 4)
            self.assertEqual(samples_in_view(width), mean)
            self.assertAlmostEqual(window_width(width), centre, 1)
        # half sphere, 4096 × 4096 an eye
        self.assertAlmostEqual(samples_a_degree(4096, 180), 22.7556, 4)

    def test_knows_whole_spheres_by_their_shape(self) -> None:
        self.assertTrue(all(width == 2 * height for width, height in SPHERES))
