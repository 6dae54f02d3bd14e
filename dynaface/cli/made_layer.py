"""What a maker made, written as a layer of keys."""

import json
from pathlib import Path

from dynaface.core.layers.maker import Made, keys_of_made


def write_layer(path: Path, name: str, made: Made, rate: float) -> None:
    """Writes layer.json; rate: frames a second."""
    keys = {
        channel: {f"k{n}": key.plain() for n, key in enumerate(found)}
        for channel, found in keys_of_made(made, rate).items()
    }
    path.write_text(json.dumps({"name": name, "does": "add", "keys": keys}, indent=1) + "\n")
    print(f"wrote {path}: keys of {', '.join(keys)}")
