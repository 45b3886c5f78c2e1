"""Log lines as JSON, one object a line, for programs that gather them from many machines."""

import json
import logging
from datetime import UTC, datetime


class JsonLines(logging.Formatter):
    """at (ISO 8601, UTC), level, logger, text, and trace where something was raised."""

    def format(self, record: logging.LogRecord) -> str:
        """Return one line."""
        told = {
            "at": datetime.fromtimestamp(record.created, UTC).isoformat(),
            "level": record.levelname.lower(),
            "logger": record.name,
            "text": record.getMessage(),
            "process": record.process,
        }
        if record.exc_info:
            told["trace"] = self.formatException(record.exc_info)
        return json.dumps(told, ensure_ascii=False)
