"""Which frame of the export belongs to which of the master: opening, offset, frame rates."""
