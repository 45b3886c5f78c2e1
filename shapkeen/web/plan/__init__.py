"""Plan: what a delivery will be, before it is exported; and delivery specifications."""
