"""The OpenAPI page, drawn here so that nothing is fetched from elsewhere."""

from html import escape
from typing import Any

from flask import Response

from dynaface.web.answers import as_json
from dynaface.web.spec import routes, spec

_STYLE = """body{font:15px/1.5 system-ui,sans-serif;margin:2rem auto;max-width:60rem;padding:0 1rem;background:#0e1714;color:#ece5d8}
h1{font-weight:600}h2{margin:2rem 0 .5rem}code{color:#e8b04b}section{border-top:1px solid #2a3a34;padding:.6rem 0}
pre{background:#14201b;padding:.7rem;overflow:auto}a{color:#e8b04b}"""


@routes.get("/openapi.json")
def openapi() -> Response:
    """The description of this API."""
    return as_json(spec.spec)


@routes.get("/docs")
def docs() -> Response:
    """The same for people."""
    described: dict[str, Any] = spec.spec
    parts = [f"<!doctype html><html lang=en><meta charset=utf-8><title>Dynaface API</title><style>{_STYLE}</style>",
             "<h1>Dynaface API</h1><p>The machine-readable form is <a href=openapi.json>openapi.json</a>. "
             "Requests that change something carry the header <code>X-Dynaface: 1</code>.</p>"]  # fmt: skip
    for path, methods in sorted(described["paths"].items()):
        for method, about in methods.items():
            words = " ".join(filter(None, (about.get("summary"), about.get("description"))))
            parts.append(
                f"<section><code>{method.upper()} {escape(path)}</code><br>{escape(words)}{_takes(about, described)}"
            )
            parts.append("</section>")
    return Response("".join(parts), mimetype="text/html")


def _takes(about: dict[str, Any], described: dict[str, Any]) -> str:
    content = about.get("requestBody", {}).get("content", {}).get("application/json", {})
    name = content.get("schema", {}).get("$ref", "").rsplit("/", 1)[-1]
    fields = described.get("components", {}).get("schemas", {}).get(name, {}).get("properties", {})
    if not fields:
        return ""
    lines = (f"{k}: {v.get('type') or v.get('title', '')}" for k, v in fields.items())
    return f"<pre>{escape(chr(10).join(lines))}</pre>"
