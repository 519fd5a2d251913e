"""A record template as JSON Schema (draft 2020-12) with our few annotations, and back.

What the standard has a keyword for stands there: title, description, properties, required, enum, default, minimum, maximum,
format, pattern, arrays for fields that take many values, and `allOf`/`anyOf` of `required` for the groups that open a record.
What it has none for stands in an object under "urdaten", of the template and of each property.
"""

from __future__ import annotations

from collections.abc import Mapping
from decimal import Decimal
from typing import Any

from urdaten.core.records.template import Field, Template
from urdaten.errors import BadInput

DIALECT = "https://json-schema.org/draft/2020-12/schema"
OURS = "urdaten"
_FORMATS = {"date": "date", "time": "time"}
_KINDS = {form: kind for kind, form in _FORMATS.items()} | {"date-time": "moment"}


def schema_of(template: Template) -> dict[str, Any]:
    """The template as a JSON Schema document: what its records, written as JSON, look like."""
    made: dict[str, Any] = {"$schema": DIALECT, "title": template.name}
    if template.description:
        made["description"] = template.description
    made["type"] = "object"
    made["properties"] = {f.name: _property(f) for f in template.fields}
    if required := [f.name for f in template.fields if f.required]:
        made["required"] = required
    if template.opens:
        made["allOf"] = [{"anyOf": [{"required": [name]} for name in group]} for group in template.opens]
    made[OURS] = {"anchor": template.anchor, "scope": template.scope, "each": template.each}
    return made


def _property(f: Field) -> dict[str, Any]:
    item: dict[str, Any] = {}
    if f.kind == "number":
        item["type"] = "number"
        for keyword, bound in (("minimum", f.least), ("maximum", f.most)):
            if bound:
                item[keyword] = _number(bound)
    else:
        item["type"] = "string"
        if f.kind in _FORMATS:
            item["format"] = _FORMATS[f.kind]
        if f.pattern:
            item["pattern"] = f.pattern
    if f.allowed:
        item["enum"] = list(f.allowed)
    made: dict[str, Any] = {"type": "array", "items": item} if f.many else dict(item)
    if f.description:
        made["description"] = f.description
    if f.default:
        made["default"] = f.default
    ours: dict[str, Any] = {"types": list(f.types), "kind": f.kind}
    if f.cues:
        ours["cues"] = list(f.cues)
    if f.shared:
        ours["shared"] = True
    for name, value in (("unit", f.unit), ("from", f.default_from)):
        if value:
            ours[name] = value
    if f.kind != "number":
        for name, value in (("least", f.least), ("most", f.most)):
            if value:
                ours[name] = value
    made[OURS] = ours
    return made


def _number(text: str) -> int | float:
    number = Decimal(text)
    return int(number) if number == number.to_integral_value() else float(number)


def template_of(schema: object, types: Mapping[str, str] | None = None) -> Template:
    """The template that a JSON Schema document describes.

    A property without our annotations takes the type whose name or code (`types`: code → name) is the property's, or none;
    its kind follows from its format. Raises BadInput that names the place, "properties/weight/type", for what is no such
    document or holds what a template cannot.
    """
    held = _object(schema, "the schema")
    title = held.get("title")
    if not isinstance(title, str) or not title.strip():
        raise BadInput("The schema has no title, which is the template's name.", field="title")
    ours = _object(held.get(OURS, {}), OURS)
    properties = _object(held.get("properties"), "properties")
    required = _names(held.get("required", []), "required")
    for name in required:
        if name not in properties:
            raise BadInput(f"“{name}” is required, but is no property.", field="required")
    fields = tuple(
        _field(name, _object(value, f"properties/{name}"), name in required, types or {})
        for name, value in properties.items()
    )
    return Template(
        name=title.strip(),
        anchor=_text(ours.get("anchor", ""), f"{OURS}/anchor"),
        fields=fields,
        description=_text(held.get("description", ""), "description"),
        scope=_choice(ours.get("scope", "text"), ("sentence", "paragraph", "text"), f"{OURS}/scope"),  # type: ignore[arg-type]
        each=_choice(ours.get("each", "entity"), ("entity", "mention"), f"{OURS}/each"),  # type: ignore[arg-type]
        opens=_groups(held.get("allOf", [])),
    )


def _field(name: str, held: Mapping[str, Any], required: bool, types: Mapping[str, str]) -> Field:
    where = f"properties/{name}"
    many = held.get("type") == "array"
    item = _object(held.get("items"), f"{where}/items") if many else held
    form = item.get("type", "string")
    if form not in ("string", "number", "integer"):
        raise BadInput(
            f"“{where}” is of type {form!r}; a field is a string, a number or an array of them.", field=where
        )
    ours = _object(held.get(OURS, {}), f"{where}/{OURS}")
    kind = ours.get("kind") or _KINDS.get(
        str(item.get("format", "")), "number" if form != "string" else "none"
    )
    if "types" in ours:
        codes = _names(ours["types"], f"{where}/{OURS}/types")
    else:
        codes = [
            code for code, said in types.items() if name.casefold() in (code.casefold(), said.casefold())
        ]
    least, most = (
        str(item[keyword]) if keyword in item else _text(ours.get(word, ""), f"{where}/{OURS}/{word}")
        for keyword, word in (("minimum", "least"), ("maximum", "most"))
    )
    return Field(
        name=name,
        types=tuple(codes),
        cues=tuple(_names(ours.get("cues", []), f"{where}/{OURS}/cues")),
        required=required,
        description=_text(held.get("description", ""), f"{where}/description"),
        many=many,
        shared=ours.get("shared", False) is True,
        kind=_choice(kind, tuple(_ALL_KINDS), f"{where}/{OURS}/kind"),  # type: ignore[arg-type]
        unit=_text(ours.get("unit", ""), f"{where}/{OURS}/unit"),
        pattern=_text(item.get("pattern", ""), f"{where}/pattern"),
        allowed=tuple(str(one) for one in _list(item.get("enum", []), f"{where}/enum")),
        least=least,
        most=most,
        default=_text(held.get("default", ""), f"{where}/default"),
        default_from=_text(ours.get("from", ""), f"{where}/{OURS}/from"),
    )


_ALL_KINDS = ("none", "name", "date", "time", "moment", "number", "quantity", "money", "code")


def _groups(value: object) -> tuple[tuple[str, ...], ...]:
    found = []
    for k, one in enumerate(_list(value, "allOf")):
        where = f"allOf/{k}"
        options = _list(_object(one, where).get("anyOf"), f"{where}/anyOf")
        group: list[str] = []
        for option in options:
            group += _names(_object(option, where).get("required"), f"{where}/anyOf")
        found.append(tuple(group))
    return tuple(found)


def _object(value: object, where: str) -> Mapping[str, Any]:
    if not isinstance(value, dict) or not all(isinstance(name, str) for name in value):
        raise BadInput(f"“{where}” is no JSON object.", field=where)
    return value


def _list(value: object, where: str) -> list[Any]:
    if not isinstance(value, list) or len(value) > 10_000:
        raise BadInput(f"“{where}” is no list.", field=where)
    return value


def _names(value: object, where: str) -> list[str]:
    return [_text(one, where) for one in _list(value, where)]


def _text(value: object, where: str) -> str:
    if not isinstance(value, str) or len(value) > 2000:
        raise BadInput(f"“{where}” is no text of at most 2000 letters.", field=where)
    return value


def _choice(value: object, choices: tuple[str, ...], where: str) -> str:
    if value not in choices:
        raise BadInput(f"“{where}” is one of {', '.join(choices)}, not {str(value)[:60]!r}.", field=where)
    return str(value)
