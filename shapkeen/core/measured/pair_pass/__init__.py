"""The pass over both files of a pair: every frame decoded once, measured, and compared."""
