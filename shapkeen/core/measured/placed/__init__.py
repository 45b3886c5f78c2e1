"""Where and how the master's picture lies in the export's: place, bars, packing of eyes, turns."""
