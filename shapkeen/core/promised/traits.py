"""The traits: one entry says everything about one, and the table is read from top to bottom.

`rule` names the way of judging (judged/rules maps it to its function), so that a trait of
an existing kind is one line here and a test.
"""

from dataclasses import dataclass

from ..declared import TraitValue
from . import forms
from .forms import Form

LIGHT, COLOUR, SHAPE, DETAIL = "light", "colour", "shape", "detail"
SPHERE, EYES, TIME, CARRIAGE = "sphere", "eyes", "time", "carriage"
FAMILIES = (LIGHT, COLOUR, SHAPE, DETAIL, SPHERE, EYES, TIME, CARRIAGE)


@dataclass(frozen=True, slots=True, kw_only=True)
class Trait:
    """One thing about the picture that must survive.

    form: how its values look. rule: how it is judged. declared: whether files can state it;
    else only the picture shows it. neutral: what silence means, where the trade agrees on it.
    flat: what players make of silence; promised only where an export says otherwise.
    unit: what its figures count, for lists with room to say so. within: a trait beside which alone
    this one is promised: where that promises a sphere, or two eyes.
    """

    name: str
    title: str
    family: str
    form: Form
    rule: str
    meaning: str
    declared: bool = True
    neutral: object = None
    flat: str = ""
    colour_tag: bool = False
    unit: str = ""
    within: str = ""

    def show(self, value: TraitValue) -> str:
        """Return a value in the trait's short form, with its unit."""
        return f"{self.form.show(value)} {self.unit}".rstrip()


TRAITS = (
    Trait(
        name="transfer",
        title="Transfer function",
        family=LIGHT,
        form=forms.TRANSFER_CODE,
        rule="transfer",
        colour_tag=True,
        meaning="How code values become light. Read wrongly, the whole picture goes flat or harsh.",
    ),
    Trait(
        name="tone",
        title="Tone",
        family=LIGHT,
        form=forms.PLAIN,
        rule="tone",
        declared=False,
        meaning="Whether shadows, mid-tones and highlights sit where they were signed off.",
    ),
    Trait(
        name="range",
        title="Range",
        family=LIGHT,
        form=forms.one_of("limited", "full"),
        rule="range",
        colour_tag=True,
        meaning="Which codes are black and white. Read wrongly, blacks are lifted or crushed.",
    ),
    Trait(
        name="bit_depth",
        title="Bit depth",
        family=LIGHT,
        form=forms.one_of(8, 10, 12, 16),
        unit="bits",
        rule="bit_depth",
        meaning="How finely tones are divided. Too few levels show as bands in skies.",
    ),
    Trait(
        name="alternative_transfer",
        title="Alternative transfer",
        family=LIGHT,
        form=forms.TRANSFER_CODE,
        rule="alternative_transfer",
        meaning="Tells newer players that an SDR-tagged picture is HLG.",
    ),
    Trait(
        name="mastering_display",
        title="Mastering display",
        family=LIGHT,
        form=forms.DISPLAY,
        unit="cd/m²",
        rule="mastering_display",
        meaning="The screen the picture was judged on; displays fit the picture to it.",
    ),
    Trait(
        name="content_light",
        title="Light level",
        family=LIGHT,
        form=forms.LIGHT,
        unit="cd/m²",
        rule="content_light",
        meaning="MaxCLL / MaxFALL in cd/m². Too low, and displays clip what is brighter.",
    ),
    Trait(
        name="dynamic_hdr",
        title="Dynamic HDR",
        family=LIGHT,
        form=forms.LISTED,
        rule="tag",
        meaning="Scene by scene hints to the display's tone mapping.",
    ),
    Trait(
        name="primaries",
        title="Primaries",
        family=COLOUR,
        form=forms.PRIMARIES_CODE,
        rule="colour_code",
        colour_tag=True,
        meaning="Which red, green and blue are meant. Read wrongly, colours pale or glow.",
    ),
    Trait(
        name="matrix",
        title="Matrix coefficients",
        family=COLOUR,
        form=forms.MATRIX_CODE,
        rule="colour_code",
        colour_tag=True,
        meaning="How luma and chroma were made from RGB. Read wrongly, reds and greens shift.",
    ),
    Trait(
        name="gamut",
        title="Colours",
        family=COLOUR,
        form=forms.PLAIN,
        rule="gamut",
        declared=False,
        meaning="Whether colours themselves are where they were signed off.",
    ),
    Trait(
        name="chroma",
        title="Chroma sampling",
        family=COLOUR,
        form=forms.one_of("4:0:0", "4:2:0", "4:2:2", "4:4:4"),
        rule="chroma",
        meaning="How finely colour is sampled beside luma.",
    ),
    Trait(
        name="chroma_location",
        title="Chroma location",
        family=COLOUR,
        form=forms.CHROMA_LOCATION,
        rule="tag",
        neutral=0,
        meaning="Where colour samples sit between luma samples. Wrong by half a sample: fringes.",
    ),
    Trait(
        name="raster",
        title="Raster",
        family=SHAPE,
        form=forms.RASTER,
        rule="raster",
        meaning="How many samples the picture has.",
    ),
    Trait(
        name="pixel_aspect",
        title="Pixel aspect",
        family=SHAPE,
        form=forms.RATIO,
        rule="pixel_aspect",
        neutral=(1, 1),
        meaning="How wide each sample is shown. Lost, and circles become eggs.",
    ),
    Trait(
        name="shown_shape",
        title="Shown shape",
        family=SHAPE,
        form=forms.NUMBER,
        rule="shown_shape",
        declared=False,
        meaning="The shape that viewers see: the registered picture times the stated pixel aspect.",
    ),
    Trait(
        name="framing",
        title="Framing",
        family=SHAPE,
        form=forms.FRAMING,
        rule="framing",
        declared=False,
        meaning="Whether the whole picture is there, and nothing round it.",
    ),
    Trait(
        name="display_size",
        title="Display size",
        family=SHAPE,
        form=forms.RASTER,
        rule="tag",
        meaning="The size that the wrapper asks to be shown at.",
    ),
    Trait(
        name="clean_aperture",
        title="Clean aperture",
        family=SHAPE,
        form=forms.APERTURE,
        rule="clean_aperture",
        meaning="The part of the raster that is meant to be seen.",
    ),
    Trait(
        name="rotation",
        title="Rotation",
        family=SHAPE,
        form=forms.one_of(0, 90, 180, 270),
        unit="degrees",
        rule="tag",
        neutral=0,
        meaning="A turn that the player makes when showing.",
    ),
    Trait(
        name="mirror",
        title="Mirror",
        family=SHAPE,
        form=forms.one_of(True, False),
        rule="tag",
        neutral=False,
        meaning="Left and right exchanged when showing.",
    ),
    Trait(
        name="scan",
        title="Scan",
        family=SHAPE,
        form=forms.one_of("progressive", "top-first", "bottom-first", "interlaced"),
        rule="scan",
        meaning="Whole frames, or two fields woven. Woven fields comb on movement.",
    ),
    Trait(
        name="detail",
        title="Detail",
        family=DETAIL,
        form=forms.one_of(forms.AS_MASTERED, forms.SHARPENED),
        rule="detail",
        declared=False,
        meaning="Whether the finest structure of the master is still there.",
    ),
    Trait(
        name="projection",
        title="Projection",
        family=SPHERE,
        form=forms.one_of(
            "equirectangular",
            "half-equirectangular",
            "cubemap",
            "fisheye",
            "mesh",
            "rectilinear",
        ),
        rule="projection",
        flat="rectilinear",
        meaning="How the sphere is laid into the picture. Lost, and players show it flat.",
    ),
    Trait(
        name="projection_bounds",
        title="Projection bounds",
        family=SPHERE,
        form=forms.FIELDS,
        rule="projection_bounds",
        meaning="Which part of the sphere the picture covers.",
    ),
    Trait(
        name="pose",
        title="Pose",
        family=SPHERE,
        form=forms.FIELDS,
        rule="pose",
        meaning="Where a viewer looks first.",
    ),
    Trait(
        name="sphere_front",
        title="Front",
        family=SPHERE,
        form=forms.PLAIN,
        rule="sphere_front",
        declared=False,
        within="projection",
        meaning="Whether what lies ahead, and the horizon, still are where they were signed off.",
    ),
    Trait(
        name="sphere_seam",
        title="Seam",
        family=SPHERE,
        form=forms.PLAIN,
        rule="sphere_seam",
        declared=False,
        within="projection",
        meaning="Whether left and right edge still meet behind the viewer.",
    ),
    Trait(
        name="stereo",
        title="Eyes",
        family=EYES,
        form=forms.one_of(
            "mono",
            "left-right",
            "right-left",
            "top-bottom",
            "bottom-top",
            "frame-sequential",
            "multiview",
            "other",
        ),
        rule="stereo",
        flat="mono",
        meaning="How two eyes share one picture. Lost, and viewers see both side by side.",
    ),
    Trait(
        name="eye_height",
        title="Eye height",
        family=EYES,
        form=forms.PLAIN,
        rule="eye_height",
        declared=False,
        within="stereo",
        meaning="Whether both eyes' pictures stand equally high. Eyes cannot look up one by one.",
    ),
    Trait(
        name="convergence",
        title="Convergence",
        family=EYES,
        form=forms.CONVERGENCE,
        rule="convergence",
        declared=False,
        within="stereo",
        meaning="Which depth lies at the screen. Shifted, and all comes forward or goes back.",
    ),
    Trait(
        name="parallax",
        title="Depth",
        family=EYES,
        form=forms.PLAIN,
        rule="parallax",
        declared=False,
        within="stereo",
        meaning="How far the nearest and the farthest things stand apart in depth.",
    ),
    Trait(
        name="eye_size",
        title="Eyes' size",
        family=EYES,
        form=forms.PLAIN,
        rule="eye_size",
        declared=False,
        within="stereo",
        meaning="Whether both eyes' pictures are equally large. If not, edges do not fuse.",
    ),
    Trait(
        name="eye_colour",
        title="Eyes' colours",
        family=EYES,
        form=forms.PLAIN,
        rule="eye_colour",
        declared=False,
        within="stereo",
        meaning="Whether both eyes see the same colours. If not, surfaces shimmer.",
    ),
    Trait(
        name="eye_sharpness",
        title="Eyes' sharpness",
        family=EYES,
        form=forms.PLAIN,
        rule="eye_sharpness",
        declared=False,
        within="stereo",
        meaning="Whether both eyes see equally fine structure.",
    ),
    Trait(
        name="eye_time",
        title="Eyes' moment",
        family=EYES,
        form=forms.PLAIN,
        rule="eye_time",
        declared=False,
        within="stereo",
        meaning="Whether both eyes show the same moment. If not, whatever moves tears apart.",
    ),
    Trait(
        name="frame_rate",
        title="Frame rate",
        family=TIME,
        form=forms.RATE,
        unit="frames/s",
        rule="frame_rate",
        meaning="Frames a second. Changed, and movement stutters or sound drifts.",
    ),
    Trait(
        name="frames",
        title="Frames",
        family=TIME,
        form=forms.PLAIN,
        rule="frames",
        declared=False,
        meaning="Whether every frame of the master is there, from the first to the last.",
    ),
    Trait(
        name="level",
        title="Level",
        family=CARRIAGE,
        form=forms.PLAIN,
        rule="level",
        declared=False,
        meaning="What decoders are told to be ready for. Exceeded, and some of them refuse.",
    ),
    Trait(
        name="index_first",
        title="Index first",
        family=CARRIAGE,
        form=forms.one_of(True, False),
        rule="index_first",
        declared=False,
        meaning="Whether playback can begin before the whole file has arrived.",
    ),
)
_BY_NAME = {trait.name: trait for trait in TRAITS}


def trait_by_name(name: str) -> Trait | None:
    """Return the trait of that name, or None."""
    return _BY_NAME.get(name)
