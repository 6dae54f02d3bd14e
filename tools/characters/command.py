"""The command line of the builders."""

import argparse
from collections.abc import Callable
from pathlib import Path


def build_from_data(doc: str | None, build: Callable[[Path], bytes]) -> None:
    """--data FOLDER of the base figure, --out FILE to write."""
    parser = argparse.ArgumentParser(description=doc)
    parser.add_argument("--data", type=Path, required=True)
    parser.add_argument("--out", type=Path, required=True)
    options = parser.parse_args()
    raw = build(options.data)
    options.out.write_bytes(raw)
    print(f"{options.out}: {len(raw) / 1e6:.2f} MB")
