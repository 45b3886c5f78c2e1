"""The demo's sphere, and its title for two eyes."""

from ..recipes import EYES, PLAIN, SPHERE, with_options
from .feature import Export, Feature

ROUND = (
    Feature(
        name="The Orrery Keeper: observing room",
        note="The domed room all around: equirectangular, BT.709, 1280×640",
        master="observing-room-master.mov",
        recipe=with_options(SPHERE, crf="6"),
        light="sdr",
        raster=(1280, 640),
        scene="room",
        exports=(
            Export(delivery="Kittiwake Headsets", file="room-kittiwake.mp4", recipe=SPHERE),
            Export(
                delivery="Quayside Stream",
                file="room-quayside.mp4",
                # The flag was forgotten: the picture is shown flat.
                recipe=PLAIN,
            ),
            Export(
                delivery="Lantern Archive",
                file="room-lantern.mp4",
                # A filter that stops at the frame's edge.
                recipe=SPHERE,
                change="open seam",
            ),
            Export(
                delivery="Cormorant Screens",
                file="room-cormorant.mp4",
                recipe=SPHERE,
                change="turned round",
            ),
        ),
    ),
    Feature(
        name="The Orrery Keeper: gear trains in depth",
        note="Two eyes beside each other, full size: BT.709, 1280×360",
        master="gear-depth-master.mov",
        recipe=with_options(EYES, crf="6"),
        light="sdr",
        raster=(1280, 360),
        scene="gears",
        exports=(
            Export(delivery="Kittiwake Headsets", file="depth-kittiwake.mp4", recipe=EYES),
            Export(
                delivery="Lantern Archive",
                file="depth-lantern.mp4",
                recipe=EYES,
                change="eyes exchanged",
            ),
            Export(
                delivery="Curlew Cinema Club",
                file="depth-curlew.mp4",
                recipe=EYES,
                change="right eye shifted",
            ),
            Export(
                delivery="Tidewater Club",
                file="depth-tidewater.mp4",
                recipe=EYES,
                change="one eye twice",
            ),
            Export(
                delivery="Gannet Screens",
                file="depth-gannet.mp4",
                # Packed for another receiver, and still flagged as before.
                recipe=EYES,
                change="one eye over the other",
            ),
        ),
    ),
)
