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
    _write(options.out, build(options.data))


def build_alone(doc: str | None, build: Callable[[], bytes]) -> None:
    """--out FILE to write, of what needs no data."""
    parser = argparse.ArgumentParser(description=doc)
    parser.add_argument("--out", type=Path, required=True)
    _write(parser.parse_args().out, build())


def _write(out: Path, raw: bytes) -> None:
    out.write_bytes(raw)
    print(f"{out}: {len(raw) / 1e6:.2f} MB")
