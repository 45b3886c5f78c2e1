"""Sign-off: waivers, signatures with digests, review links, and remarks in the picture."""
