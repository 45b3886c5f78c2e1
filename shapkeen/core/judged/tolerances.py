"""Every threshold of judging, with its reason and source. Codes are on the 10-bit scale."""

from ..measured.model import HEALTHY_TRANSFER, MOVED_CODES

TONE_CODES = 3.0
"""Healthy exports at CRF 14 to 24 leave 0.5 to 1.0; truncation to 8 bits shifts by 1.5; a power
of 1.015, the smallest worth naming, makes 3.4. Found on the demo footage (decision 0005)."""

EXPLAINED_CODES = 4.0
"""What an act may leave over and still be called the explanation: clipped ends add a code."""

ACT_CODES = 3.3
"""Over cells of like colour, luma and both chroma together: healthy exports leave 0.7 to 1.3 at CRF
16 and up to 3.0 at CRF 24; the mildest conversions that photographs showed move 4.9 (0008)."""

CURVES_ALIKE = 1.3
"""A clip and a roll-off to the same peak nearly coincide: between these two, this much decides."""

UNCLEAR_CODES = 6.0
"""A pair matched half a frame or half a sample off moves tones by up to this."""

LEAST_POWER = 0.012
"""Of a power's exponent from 1: a cut of bits in a picture of few tones looks like 1.01."""
CLEAR_WIN = 2.0
"""The next best act must leave at least this many times more, or the picture cannot tell."""

MISPLACED_CODES = MOVED_CODES
"""As misplaced areas are looked for: white at 203 in place of 100 cd/m² moves by 64 PQ codes."""

EDGE_SLOPE, EDGE_CODES, EDGE_GAIN = 0.2, 4.5, 0.4
"""Of the brightest light: rise above a cut, what no act leaves over, and what a cut leaves of that.
Photographs cut at 400 and 600 cd/m² show -0.06 to 0.17, 5.1 to 34 and 0.03 to 0.25; healthy ones
at CRF 14 to 28 a rise of 0.44 and more, or a cut that leaves more than none."""
EDGE_CODES_SOFT, BLUR_FOLLOWS = 30.0, 0.5
"""The same where a blur took fine structure: one of 1.1 samples takes 14 codes from highlights, and
what it leaves follows the master's by 0.87 and more. What coding leaves does not."""
ROLLED_CODES, ROLLED_LEAD, ROLLED_SLOPE = 10.0, 2.0, 0.6
"""Codes that a roll-off along another curve leaves, how much nearer than any other act it is, and
how far highlights still rise: shoulders of photographs show 7 to 9, 2.2 to 3.9, 0.36 to 0.48."""
EDGE_LEFT = 0.35
"""Of how far colours lay outside a smaller gamut: cut ones keep 0.05 at most, healthy ones at CRF
28 0.53 and more."""
FOLD_SCATTER, FOLD_HUE_FOUND = 40.0, 25.0
"""10-bit codes, and degrees: unpromised folds of photographs through six curves in four ways leave
0.3 to 26 and turn hues by 0.3 to 15; pictures whose colours are another's 18 and 107."""
FOLD_MOVED = 8.0
"""10-bit codes: what is left over by no act at all; rough coding makes 5."""
FOLD_CLOSER = 2.0
"""What an act in HDR leaves ÷ what the fold leaves: of dark pictures a power nearly fits, and
leaves 2 codes and more where the fold leaves 0.4 to 0.6."""
FOLD_ABOVE = 0.08
"""Of the signal: by so much SDR's brightest tone lies above PQ's code for that light."""
FOLD_MARGIN, FOLD_OUTSIDE = 0.04, 0.15
"""Of the signal, and share of tones: round the ordinary folds, themselves up to 0.2 apart."""
FOLD_CONTRAST, FOLD_SHORT = 0.9, 0.1
"""Of the contrast of the flattest ordinary fold; and of the signal, below the least of them."""
FOLD_LIFT, FOLD_UNLIKE, FOLD_DARKEST = 0.08, (0.014, 0.33, 0.05), 40.0
"""Of the signal; how far a fold is from any ordinary one, and what a lifted one leaves of that,
with dark tones and with light ones alone; and cd/m²: photographs folded in five usual ways seem
lifted by 0.04 at most or lie nearer, lifted by 0.16 they lie 0.016 to 0.1 off, of which 0.01 to
0.27 is left. Light tones alone of saturated fruit, folded by its luminance, seem lifted by 0.17, of
which 0.21 is left; of a farm and a wall, which were lifted, 0.004 and 0.012."""
FOLD_CUT_NITS, FOLD_CUT_SHARE = 150.0, 0.02
"""Below HDR's diffuse white of 203 cd/m² (BT.2408), what is cut flat is no highlight."""
FOLD_HUE = 12.0
"""Degrees in ICtCp, in the middle: ordinary folds turn hues by 0.3 to 4."""

SURELY_MOVED = 30.0
"""Codes that tones moved by, of however few there are: no coding does that."""
TONE_SPAN_CODES = 100.0
"""A picture that uses fewer codes bends and shifts alike under every act."""
LEAST_SPAN_CODES, SURELY_APART = 50.0, 4.0
"""Of fewer than that an act is told where the next best leaves so many times as much, and as many
codes: a dark wood, stretched and squeezed in HLG, leaves 0.3 and 0.8, any other act 9 and more."""

CHROMA_CODES = 4.0
"""Healthy exports at CRF 14 to 24 leave 0.6 to 1.5 codes of chroma; a 601 matrix read as 709
moves saturated colours by 20 and more."""

CHROMA_CODES_UNEVEN = 8.0
"""Where hardly a block is flat: coding at CRF 26 takes 3.4 to 4.2 from the colours of stars."""

CHROMA_SPAN_CODES = 40.0
"""A picture with less colour in it cannot tell one matrix from another."""

CHROMA_GAIN = 0.03
"""Relative. Range acts scale chroma by 0.876 or 1.142."""

OVERLAY_MARGIN = 0.05
"""Of the picture's shorter side: what lies over it is found by cells."""
SHAPE_RATIO = 0.005
"""0.5 % in shown ratio; common practice, no source: 1 % is visible on a circle."""
SHAPE_VISIBLE = 0.01

SHAPE_SPREAD = 3.0
"""Times the spread of places: rough coding moves the sides that much, and the ratio with them."""

STORED_SQUEEZE = 0.01
"""Even sizes round a widened raster by up to this: 1704 for 1706.7 samples is 0.2 %."""

IN_PLACE = 0.9
"""Likeness of a picture laid over its master; sheared by 4 % it is 0.83 at most."""
WANDERING = 4.0
"""Samples by which a place differs between frames that are hardly like the master's: no place."""
PLACE_LIKE = 0.95
"""Below it colours or tones are so much others that a place found by luma is a rough one."""
ROUGH_PLACE = 0.015
"""Of a side: such a place is off by so much at most; a picture blown out to white was by 0.012."""
FRAMING_SHARE = 0.005
FRAMING_SAMPLES = 2.0
"""A pad or cut below both is what scaling filters and even sizes make."""

PLACE_SPREAD = 0.5
"""Samples by which the places of frames in step may differ: healthy exports stay within 0.25; a
slow pan whose frames are out of step is off by a whole sample."""
PLACE_SURE = 3.0
"""Times that spread, from which a move is one: half the frames out of step make about 2."""
DETAIL_HEALTHY, DETAIL_SHARPENED = HEALTHY_TRANSFER, 1.08
"""Transfer of fine structure, ½ to ¾ of Nyquist: as it is looked for, and more than a healthy
export ever showed (0.93)."""
DETAIL_CODED, DETAIL_LOST = 0.35, 0.3
"""What coding alone leaves at CRF 24 at the least, and what is more than an ordinary loss: CRF 32
leaves 0.13 to 0.45, CRF 40 at most 0.11."""
SWIMMING_CODES, SWIMMING_DETAIL = 3.0, 0.7
"""Scatter of even places round their tone, in codes: photographs at an encoder's lowest quality 3.4
to 7.7, healthy exports at CRF 14 to 26 by five encoders 0.5 to 1.7."""
RESTLESS = 2.2, 0.935
"""Scatter in codes, and SSIM: a jetty in mist by SVT-AV1 at its lowest quality shows 2.4 and 0.927;
a very fast x264 at CRF 26, healthy, 2.8 and 0.947 of fruit."""
CODED_SSIM, CODED_SSIM_HDR, RUINED_SSIM = 0.965, 0.976, 0.92
"""Mean SSIM of the compared pairs from which coding did no harm that anyone sees, whatever it took
of grain and fur: photographs at CRF 26 show 0.967 and more, at CRF 34 0.94 at most; in PQ, whose
codes are flatter, 0.984 at CRF 26 and 0.973 at most at CRF 32. Below the last, whatever else can be
told, coding ruined them."""
DETAIL_HALF = 0.55
"""Of the finest structure: where so much is there, rough coding is told without being blamed. An
encoder's lowest quality leaves 0 to 0.4, and 0.53 of a jetty in mist; a very fast x265 at CRF 26,
which is no injury, 0.57 of a painted meadow whose SSIM is 0.91."""
DETAIL_FOLLOWS = 0.19
"""Of a blur's structure what is left follows the master's by this and more at CRF 16 and 20, but in
a picture that was soft before; of coding's it does not (0.18 at most)."""
DETAIL_GAIN, DETAIL_SHARPER = 0.72, 0.95
"""A blur or a smaller picture must explain so much that this share is left; coding alone leaves
0.79 and more at CRF 24. Sharpening: of what nothing explains."""
DETAIL_LEAD, DETAIL_CLOSER, DETAIL_ALIKE = 0.9, 0.98, 0.96
"""Repeated samples, and enlarging against blurring: how much less must be left."""
DETAIL_CLIFF = 2.15
"""Steepness: blurs at CRF 20 and 24 show 2.2 to 2.8, enlargements but linear ones 1.5 to 2.2."""
CLIFF_SURE, CLIFF_FOLLOWS, CLIFF_GAIN, CLIFF_SSIM = 2.05, 0.255, 0.82, 0.975
CLIFF_CLEAN, CLIFF_LEAST = 0.69, 4.0
"""Coding alone falls by 2.1 and more where it takes as much; and what it leaves, however it filters
before, follows by 0.24 at most. What scaling leaves follows by 0.27 and more, up to CRF 24 of x264,
x265 and SVT-AV1, but in a picture that was enlarged before, or full of grain. That one was scaled
where its SSIM is so high, for coding as rough harms all of the picture, and where so little is left
unexplained: a fast SVT-AV1 leaves 0.70 and more of a smooth picture. Of a night in mist, whose only
structure is its grain of 3 codes, VP9 and SVT-AV1 leave 0.64 to 0.68: so little tells nothing."""
LINEAR_SIGMA = 0.95
"""Twice enlarged by a linear kernel and then coded is a blur of this sigma and more."""
ENLARGED_LEFT = 0.5
"""Of the structure of an enlargement: where no kernel leaves less, more than that happened."""
WHOLE_RATIO = 0.002
"""Of an enlargement's ratio: closer to a whole number it keeps the sampling grid."""

STEP_SHARE_REDUCED, STEP_SHARE_CLEAN = 0.5, 0.15
"""Share of an 8-bit staircase in smooth blocks: healthy 10-bit exports at CRF 14 to 24 show
0.02 to 0.05, pictures cut to 8 bits 0.4 to 1.0 (decision 0005)."""

STEP_SHARE_COARSER = 0.6, 0.05
"""Of the staircase of 8 bits, and beyond: so much there is of one of 7 or 6, where it is one of
those; one of a bit more makes a half of it."""
STEP_LEFT = 0.06, 0.55
"""Of a level's height: so far even places lie off their tone at the least and at most. Cut off they
lie lower by 0.27 to 0.5 of it, rounded they scatter by 0.07 to 0.23. Sunken highlights looked like
6 bits, of which they were off by 0.05, and like 8, of which it was 0.59."""
COMB_REDUCED = 0.9
"""Share of codes with one remainder mod 4: uncut pictures show 0.25 to 0.4."""

LIGHT_LEVEL = 1.10
"""Measured 99.9th percentile ÷ declared MaxCLL: coding overshoot stays below this."""
LIGHT_ABOVE, LIGHT_CODED = 1.25, 1.35
"""A master's 99.9th percentile ÷ its own MaxCLL, which is no fault of an export; and the export's ÷
the master's: of snowy rocks x265 makes 1.03 at CRF 14, 1.07 at 20, 1.13 at 26; of wet fruit 1.06,
1.13, 1.20; of a shop full of lamps SVT-AV1 1.14, 1.24, 1.31."""

RATE_SHARE = 2e-4
"""Relative; 24 and 23.976 differ by 1e-3, and clock rounding stays below 1e-5."""

CHROMATICITY = 0.0003
"""Wrappers round chromaticities to 0.00002 (ISO base media) or to 1/65536 (AV1)."""
LUMINANCE_SHARE = 0.02
LUMINANCE_NITS = 0.0002
"""Minimum luminance is coded in steps of 0.0001 cd/m²."""

PROGRESSIVE_SSIM = 0.90
"""Whole frames that match the master's this well cannot be woven from two moments."""

OUTSIDE_SHARE = 0.005
"""Coding overshoot puts a few samples in a thousand outside limited range; full range far more."""

BANDED_SHARE = 0.9
"""Smooth gradients of 10 bits step by one code; nine of ten steps of 3 and more passed 8 bits."""

STILL_SHARE = 0.9
"""Where more frames than this are like their neighbours, a missing one would not show."""

TRIM_SEEN_S = 1.0
"""Seconds cut off at the ends: less is a slate or a few frames of handle, more is picture (common
practice, no source)."""

SAME_COUNT_FRAMES = 2
"""A relabelled rate keeps its frames; encoders add or lose one or two at the ends."""

COMBED_SHARE = 0.01
"""Of all blocks, beyond the master's own. Four moving photographs at CRF 16 and 24: healthy 0.001
at most, woven from two neighbouring frames 0.24 to 0.82."""

SPHERE_TURN_DEG = 0.25
"""Photographs turned by any angle and coded at CRF 24: found within 0.02. Less is not seen on any
headset (common practice, no source)."""

SEAM_RATIO, SEAM_CODES = 2.0, 3.0
"""What an export adds at the seam ÷ elsewhere, and by how many 10-bit codes: healthy ones at CRF 16
to 30 show 0.4 to 1.6, one edge 10 % darker 1.9 and more."""
TURN_LIKENESS = 0.95
"""Pictures sheared by 4 % of the width, turned as well as may be, are like by 0.78 to 0.94; truly
turned ones at CRF 36 by 0.97 and more."""
SEAM_TEAR = 0.3
"""% of height, between the outermost quarters: found within 0.05 on healthy spheres."""

EYE_LIKENESS = 0.75
"""As of pictures that are registered."""
EYE_NEARER = 1.5
"""How much less alike an eye is to its own than to the other, where they were exchanged: soft ones
of a grey, misty picture 2.2 times; eyes in their place 0.01 to 0.05 times."""
EYE_DROP, EYE_DROP_LOST = 0.15, 0.5
"""% of height. Laid over each other within 0.03 on photographed pairs; 0.5: common practice, no
source."""
EYE_SHIFT, EYE_SHIFT_LOST = 0.15, 0.5
"""% of width. Laid over each other within 0.03 on photographed pairs; on a screen 10 m wide 0.15 %
is 15 mm, a fifth of what eyes bear."""
EYE_SIZE = 0.004
"""Relative: found within 0.001 on photographed pairs; 0.4 % is 4 lines of 1080 between the
edges."""
LEAST_PARALLAX, PARALLAX_SHARE = 0.6, 0.15
"""% of width: less depth cannot be told from matching's own steps. Relative: coding moves both ends
of the distribution by up to a tenth."""
EYE_COLOUR = 1.5
"""ΔE, mean over matched places: coding leaves 0.3, and 1 is what a careful eye just sees."""
EYE_SHARPNESS = 1.25
"""Ratio: coding moves it by a tenth at most."""

SYNC_EARLY_MS, SYNC_LATE_MS = 40.0, 60.0
"""Sound ahead of its picture, and behind it. Source: EBU R 37-2007 (from memory)."""
SYNC_EARLY_LOST_MS, SYNC_LATE_LOST_MS = 90.0, 185.0
"""Beyond it nobody puts up with it. Source: ITU-R BT.1359-1, acceptability (from memory)."""
SOUND_FOUND, SOUND_FOREIGN, SOUND_FOREIGN_MEAN = 0.8, 0.6, 0.45
"""Correlation of levels: coded down to 64 kb/s, resampled or louder, the master's sound has 0.98
and more with itself; another sound, looked for everywhere, 0.1 to 0.5, one moment 0.56."""
LEAST_FOREIGN_MOMENTS = 3
SOUND_STEADY_MS = 20.0
"""Moments of healthy exports lie within 2 ms of each other."""
SILENT_SHARE = 0.995
SOUND_END_S = 0.5
"""Sound that breaks off, or goes on, by more is noticed; coders pad up to a twentieth of a second
(common practice, no source)."""
CHANNEL_HEARD, CHANNEL_UNTOLD = 0.5, 0.5
"""Share of the strongest gain from which a channel counts as mixed in; of power that no mix of the
master's channels explains."""
LOUDNESS_LU, LOUDNESS_MASTERED_LU, LOUDNESS_LOST_LU = 0.5, 1.5, 3.0
"""Off a target: EBU R 128-2020. Off the master's: coding at 64 kb/s takes 1.1; three: anybody hears
it (common practice, no source)."""
LOUDNESS_RANGE_LU = 2.0
"""Coding moves it by tenths; 2 LU: common practice, no source."""
HELD_DOWN_DB = 1.5
"""By how much peaks fall short: coders move them by some tenths of a decibel."""
FULL_SCALE_DBFS = -0.5
PEAK_DB = 3.0
"""Coding a loud mix down to 48 kb/s lifts its peaks by up to 2.7 dB, as measured."""
