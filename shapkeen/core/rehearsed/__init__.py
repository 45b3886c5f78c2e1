"""What receivers and viewers make of a file. For now: viewers' screens, for looking at stills.

`screen.render_still` is imported from its module, for it brings the decoder along.
"""

EYES = ("plain", "toned")
"""Ways of looking; screen.py says what each of them shows."""
