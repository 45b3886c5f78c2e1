"""The digest of a promise: two promises that ask for the same have the same one."""

import hashlib
import json
from dataclasses import asdict

from .model import Promise


def promise_digest(promise: Promise) -> str:
    """Return the SHA-256 of a promise, 64 hexadecimal digits.

    Over what each trait asks for, in the order of their names; where a value came from in words
    (`origin`) is left out.
    """
    plain = {name: asdict(promised) for name, promised in sorted(promise.traits.items())}
    for asked in plain.values():
        del asked["origin"]
    return hashlib.sha256(json.dumps(plain, sort_keys=True).encode()).hexdigest()
