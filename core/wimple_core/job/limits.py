"""How many of its parts a document may hold, by where they stand: read off the document's own types."""

from __future__ import annotations

from typing import Any

from .document import Job


def list_limits() -> dict[str, tuple[int, int | None]]:
    """The fewest and the most entries of every list of the document; those of a blank stand under its kind."""
    schema = Job.model_json_schema()
    defs = schema["$defs"]
    out: dict[str, tuple[int, int | None]] = {}

    def walk(node: dict[str, Any], path: str, seen: tuple[str, ...]) -> None:
        name = node.get("$ref", "").rpartition("/")[2]
        if name:
            if name not in seen:
                kind = defs[name].get("properties", {}).get("kind", {}).get("const")
                walk(defs[name], kind if path == "blank" else path, (*seen, name))
            return
        for one in (*node.get("anyOf", ()), *node.get("oneOf", ())):
            walk(one, path, seen)
        if node.get("type") == "array" and isinstance(node.get("items"), dict):
            out.setdefault(path, (node.get("minItems", 0), node.get("maxItems")))
            walk(node["items"], path, seen)
        for key, inner in node.get("properties", {}).items():
            walk(inner, f"{path}.{key}" if path else key, seen)

    walk(schema, "", ())
    return out
