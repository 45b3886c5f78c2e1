"""Which frame of the export is which of the master's: beginnings, pairs, drops and repeats."""
