"""Raw little-endian arrays behind a JSON head: uint32 head length, head, padding to 8, then the arrays in order."""

from __future__ import annotations

import json
from typing import Any

import numpy as np
from numpy.typing import NDArray


def pack(head: dict[str, Any], arrays: dict[str, NDArray[np.generic]]) -> bytes:
    """The head gains ``arrays``: name, type (f4, u4), shape and offset from the start of the body."""
    described, body, offset = [], [], 0
    for name, values in arrays.items():
        kind = "f4" if values.dtype.kind == "f" else "u4"
        data = np.ascontiguousarray(values, dtype=f"<{kind}").tobytes()
        described.append({"name": name, "type": kind, "shape": list(values.shape), "offset": offset})
        body.append(data)
        offset += len(data)
    text = json.dumps({**head, "arrays": described}, ensure_ascii=False).encode()
    text += b" " * (-(len(text) + 4) % 8)
    return len(text).to_bytes(4, "little") + text + b"".join(body)
