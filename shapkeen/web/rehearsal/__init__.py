"""Rehearsals: what receiving services make of an export, and what their viewers see."""
