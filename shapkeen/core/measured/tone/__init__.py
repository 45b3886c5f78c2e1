"""Light and colour: which act moved the code values, and where they were moved."""
