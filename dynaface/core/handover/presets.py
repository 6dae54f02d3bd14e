"""What is handed over often, by name: presets that come with the product."""

from collections.abc import Mapping
from typing import Any

BUILT_IN: Mapping[str, Mapping[str, Any]] = {
    "engine": {"forms": {"gltf": {}, "sound": {}}, "options": {"tolerance": 0.0005}, "pattern": "{name}"},
    "stage": {"forms": {"usd": {}, "sound": {}}, "options": {"handles": 8}, "pattern": "{name}"},
    "curves": {"forms": {"curve table": {}}, "options": {}, "pattern": "{name}"},
    "body": {"forms": {"bvh": {}}, "options": {"rest": True}, "pattern": "{name}_body"},
    "edit": {"forms": {"edit list": {}, "sound": {}}, "options": {}, "pattern": "{name}"},
}
"""name -> settings of a handover as plain data."""
