"""Script data: AMF0 values as plain ones. Source: the AMF0 specification (from memory)."""

import struct

MAX_DEPTH, MAX_VALUES = 8, 500
NUMBER, BOOLEAN, STRING, OBJECT, ECMA_ARRAY, STRICT_ARRAY, DATE = 0, 1, 2, 3, 8, 10, 11


class Amf:
    """A position in script data; every call raises ValueError for what is damaged."""

    def __init__(self, data: bytes) -> None:
        """Start at the first value."""
        self._data, self._at, self._count = data, 0, 0

    def value(self, depth: int = 0) -> object:
        """Return the next value: float, bool, str, dict, list, or None."""
        self._count += 1
        if depth > MAX_DEPTH or self._count > MAX_VALUES:
            raise ValueError("script data nests too deep or holds too much")
        kind = self._take(1)[0]
        if kind == NUMBER:
            return float(struct.unpack(">d", self._take(8))[0])
        if kind == BOOLEAN:
            return bool(self._take(1)[0])
        if kind == STRING:
            return self._text()
        if kind in (OBJECT, ECMA_ARRAY):
            if kind == ECMA_ARRAY:
                self._take(4)
            return self._object(depth)
        if kind == STRICT_ARRAY:
            count = int.from_bytes(self._take(4), "big")
            return [self.value(depth + 1) for _ in range(min(count, MAX_VALUES))]
        if kind == DATE:
            self._take(10)
        return None

    def _object(self, depth: int) -> dict[str, object]:
        found: dict[str, object] = {}
        while True:
            name = self._text()
            if not name:
                self._take(1)
                return found
            found[name] = self.value(depth + 1)

    def _text(self) -> str:
        size = int.from_bytes(self._take(2), "big")
        return self._take(size).decode("utf-8", "replace")

    def _take(self, count: int) -> bytes:
        data = self._data[self._at : self._at + count]
        if len(data) < count:
            raise ValueError("script data ends too soon")
        self._at += count
        return data


def read_script(data: bytes) -> dict[str, object]:
    """Return the values of the script data's object, empty where there is none."""
    try:
        amf = Amf(data)
        amf.value()
        found = amf.value()
    except ValueError:
        return {}
    return found if isinstance(found, dict) else {}
