"""The glTF library's document made of plain JSON. The library's own way looks up the types of each object anew, which takes a
second for a character of some thousand objects; here they are looked up once for each kind of object.
"""

import dataclasses
from collections.abc import Callable
from functools import cache
from types import NoneType
from typing import Any, Union, get_args, get_origin, get_type_hints

from pygltflib import GLTF2, Attributes, Primitive

Convert = Callable[[Any], Any]


def decode_document(plain: dict[str, Any], binary: bytes) -> GLTF2:
    """The document of a JSON chunk and the bytes beside it; raises TypeError, ValueError, AttributeError or
    OverflowError for what is no glTF.
    """
    document: GLTF2 = _built(GLTF2, plain)
    document.set_binary_blob(binary)
    return document


def _built(kind: type, plain: dict[str, Any]) -> Any:
    """An object of a data class; fields that are not there have their defaults, or None where they have none."""
    made = kind(
        **{name: convert(plain.get(name)) for name, convert, needed in _fields(kind) if needed or name in plain}
    )
    if kind is Primitive and isinstance(made.attributes, dict):
        made.attributes = Attributes(**made.attributes)
    return made


@cache
def _fields(kind: type) -> list[tuple[str, Convert, bool]]:
    """(name, what makes its value of plain data, whether it has no default) of each field."""
    hints = get_type_hints(kind)
    return [
        (f.name, _converter(hints[f.name]), f.default is f.default_factory is dataclasses.MISSING)
        for f in dataclasses.fields(kind)
    ]


@cache
def _converter(hint: Any) -> Convert:
    held = [a for a in get_args(hint) if a is not NoneType]
    if get_origin(hint) is Union and len(held) == 1:
        return _converter(held[0])
    if dataclasses.is_dataclass(hint):
        return lambda value: None if value is None else _built(hint, value)  # type: ignore[arg-type]
    if get_origin(hint) is list and held == [float]:
        return lambda value: None if value is None else [float(v) for v in value]
    if get_origin(hint) is list and (dataclasses.is_dataclass(held[0]) or get_args(held[0])):
        each = _converter(held[0])
        return lambda value: None if value is None else [each(v) for v in value]
    return lambda value: value
