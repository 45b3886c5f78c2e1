"""Coded headers made to say what is wished: parameter sets, messages, frame headers."""
