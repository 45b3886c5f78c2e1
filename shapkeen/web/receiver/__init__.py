"""A stand-in that is reached over HTTP, so that a delivery script can be tried against it.

On loopback alone; a simulation, and every answer says so. Addresses: docs/stand-ins.md.
"""
