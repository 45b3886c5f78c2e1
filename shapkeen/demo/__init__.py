"""Renders the demo footage, *The Orrery Keeper*, and fills a library with it. All invented."""
