"""MXF files, OP1a and OP-Atom."""

from .reader import outline_mxf, read_mxf, starts_mxf

__all__ = ["outline_mxf", "read_mxf", "starts_mxf"]
