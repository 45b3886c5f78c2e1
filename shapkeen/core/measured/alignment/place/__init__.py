"""Where the picture of the master lies in that of the export: bars, windows, registration."""
