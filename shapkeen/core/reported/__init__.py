"""The contract's objects, and figures as SVG.

Each object has its own module and is imported from there: reading a file must start fast, and
only some objects need the numeric libraries.
"""
