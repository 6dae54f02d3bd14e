"""What was measured of a stretch of footage, as bytes for our own store: a NumPy archive."""

import io
import zipfile

import numpy as np

from dynaface.core.errors import InputError
from dynaface.core.solve.measured import Measured


def write_measured(measured: Measured) -> bytes:
    """Half of the symmetric equations is kept."""
    n = measured.b.shape[1]
    rows, columns = np.triu_indices(n)
    out = io.BytesIO()
    np.savez(out, a=measured.a[:, rows, columns], b=measured.b, weights=measured.weights.astype(np.float32),
             poses=measured.poses, sure=measured.sure.astype(np.float32))  # fmt: skip
    return out.getvalue()


def read_measured(data: bytes) -> Measured:
    """The other way; raises InputError for what is none."""
    try:
        with np.load(io.BytesIO(data), allow_pickle=False) as packed:
            half, b = packed["a"], packed["b"]
            n = b.shape[1]
            rows, columns = np.triu_indices(n)
            a = np.empty((len(half), n, n), np.float32)
            a[:, rows, columns] = half
            a[:, columns, rows] = half
            return Measured(a, b, packed["weights"].astype(np.float64), packed["poses"],
                            packed["sure"].astype(np.float64))  # fmt: skip
    except (ValueError, KeyError, IndexError, OSError, EOFError, zipfile.BadZipFile) as error:
        raise InputError(f"what was measured cannot be read: {error}", hint="Solve again") from None
