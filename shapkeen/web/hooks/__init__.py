"""Webhooks: what happens here is told to addresses of the house, signed, until they answer."""
