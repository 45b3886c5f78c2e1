"""The Bench: thread map and evidence slips."""
