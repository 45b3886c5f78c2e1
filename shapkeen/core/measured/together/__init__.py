"""Both files of a pair in one decode: counted, reduced, and held against each other."""
