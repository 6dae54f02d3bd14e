"""Bodies for the API: sound ones made from its own description, and the same with something odd in one place."""

import copy
import random
from collections.abc import Mapping
from typing import Any

ODD: tuple[Any, ...] = (
    None, True, 0, -1, 1e17, 2**31, 2**63, 10**30, -1e-320, "", "\x00", "a\x00b", "日本", "\u202e", "x" * 5000, [], {}, [[]], [1, 2],
    {"": 0}, {"a": {"b": []}}, "1e99999999", "1/0", "NaN", "../../etc/passwd", "00000000-0000-0000-0000-000000000000", "0" * 64,
)  # fmt: skip
RAW = (b"", b"{", b"[]", b"null", b'"x"', b'{"a": NaN}', b'{"a": 1e400}', b'{"a": 99999999999999999999999}', b"[" * 3000,
       b'{"a": "\\ud800"}', b"\xff\xfe", b'{"name": "a\\u0000"}')  # fmt: skip


def sample(schema: Mapping[str, Any], schemas: Mapping[str, Any], known: Mapping[str, Any], rng: random.Random,
           name: str = "", depth: int = 0) -> Any:  # fmt: skip
    """A value that fits a JSON schema; what a field is named says which of the known ids it gets."""
    if name in known:
        return known[name]
    if "$ref" in schema:
        return sample(schemas[schema["$ref"].rsplit("/", 1)[-1]], schemas, known, rng, name, depth)
    for word in ("anyOf", "oneOf"):
        if word in schema:
            return sample(rng.choice(schema[word]), schemas, known, rng, name, depth)
    if "allOf" in schema:
        return sample(schema["allOf"][0], schemas, known, rng, name, depth)
    for word in ("const", "default"):
        if word in schema:
            return schema[word]
    if "enum" in schema:
        return rng.choice(schema["enum"])
    kind = schema.get("type", "object")
    if kind == "object":
        needed = set(schema.get("required", []))
        fields = schema.get("properties", {})
        return {k: sample(s, schemas, known, rng, k, depth + 1) for k, s in fields.items()
                if k in needed or (depth < 3 and rng.random() < 0.5)}  # fmt: skip
    if kind == "array":
        many = max(schema.get("minItems", 0), rng.randint(0, 2))
        return [sample(schema.get("items", {}), schemas, known, rng, "", depth + 1) for _ in range(many)]
    if kind == "string":
        return "jawOpen"[: schema.get("maxLength", 7)].ljust(schema.get("minLength", 0), "a")
    return {"integer": 1, "number": 0.5, "boolean": True, "null": None}.get(kind)


def schema_of(api: Mapping[str, Any], method: str, rule: str) -> Mapping[str, Any]:
    """The JSON schema of the body that a rule of the application takes, by the API's description; empty where it takes none."""
    template = rule.replace("<int:", "<").replace("<", "{").replace(">", "}")
    about = api["paths"].get(template, {}).get(method.lower(), {})
    found: Mapping[str, Any] = (
        about.get("requestBody", {}).get("content", {}).get("application/json", {}).get("schema", {})
    )
    return found


def odd(body: Any, rng: random.Random) -> Any:
    """The body with one of its places changed: another kind of value, taken away, or something more."""
    made = copy.deepcopy(body)
    places: list[tuple[Any, Any]] = []
    waiting = [made]
    while waiting:
        at = waiting.pop()
        for key in at if isinstance(at, dict) else range(len(at)) if isinstance(at, list) else ():
            places.append((at, key))
            if isinstance(at[key], dict | list):
                waiting.append(at[key])
    if not places or rng.random() < 0.05:
        return rng.choice(ODD)
    at, key = rng.choice(places)
    if isinstance(at, dict) and rng.random() < 0.1:
        del at[key]
    elif isinstance(at, dict) and rng.random() < 0.1:
        at[str(rng.choice(ODD))[:300]] = rng.choice(ODD)
    else:
        at[key] = rng.choice(ODD)
    return made
