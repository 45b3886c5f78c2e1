"""Styles and scripts as they are served: named by their contents, and packed."""

from typing import Any

from whitenoise.compress import Compressor
from whitenoise.storage import CompressedManifestStaticFilesStorage


class PackedStaticFiles(CompressedManifestStaticFilesStorage):  # type: ignore[misc]
    """Packs by gzip alone: Brotli's best took most of the first start, for one house's network."""

    def create_compressor(self, **kwargs: Any) -> Compressor:
        """Return what packs."""
        return Compressor(use_brotli=False, **kwargs)
