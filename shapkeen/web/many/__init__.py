"""One act for many exports: what it would do to each is shown first."""
