"""Tests of the pictures that the demo draws."""
