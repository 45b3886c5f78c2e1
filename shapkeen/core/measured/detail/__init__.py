"""Fine structure: which act took it, how many levels are left, and whether fields are woven."""
