"""Record templates: which fields a record has, what may fill them, and when there is a record at all."""

from __future__ import annotations

from dataclasses import dataclass, field
from decimal import Decimal, InvalidOperation
from functools import cached_property
from typing import Literal

from urdaten.core.values import CURRENCIES, KINDS, UNITS, check_pattern
from urdaten.errors import BadInput

Kind = Literal["none", "name", "date", "time", "moment", "number", "quantity", "money", "code"]
Scope = Literal["sentence", "paragraph", "text"]
Opens = Literal["entity", "mention"]
MOST_FIELDS = 60
_MEASURED = frozenset(("number", "quantity", "money"))


@dataclass(frozen=True, kw_only=True)
class Field:
    """One field.

    `cues` are words, or several in a row, that, standing before a span in its sentence, say that the span belongs to this
    field. It takes one value, of its types one span each, unless `many` lets it take all that belong there. `least` and `most`
    are bounds in plain figures, or days. `unit` is what a bare number is of: a UCUM or ISO 4217 code. `default` is what it is
    when no span fills it: words, or what the text's metadata have under `default_from`.
    """

    name: str
    types: tuple[str, ...]
    cues: tuple[str, ...] = ()
    required: bool = False
    description: str = ""
    many: bool = False
    # May one span fill it in several records?
    shared: bool = False
    kind: Kind = "none"
    unit: str = ""
    pattern: str = ""
    allowed: tuple[str, ...] = ()
    least: str = ""
    most: str = ""
    default: str = ""
    default_from: str = ""


@dataclass(frozen=True, kw_only=True)
class Template:
    """A record template.

    Each distinct entity of the anchor field, or each mention of one, may open a record; with no anchor there is one for each
    sentence, paragraph or text, as the scope has it. A record opens only where each group of `opens` has a field with a value.
    The scope is also how far a value may stand from its anchor.
    """

    name: str
    anchor: str
    fields: tuple[Field, ...] = field(default_factory=tuple)
    description: str = ""
    scope: Scope = "text"
    each: Opens = "entity"
    opens: tuple[tuple[str, ...], ...] = ()

    def __post_init__(self) -> None:
        names = [f.name for f in self.fields]
        repeated = sorted({name for name in names if names.count(name) > 1})
        if repeated:
            raise BadInput(f"The template names the field “{repeated[0]}” twice.", field="fields")
        if len(names) > MOST_FIELDS:
            raise BadInput(f"A template has at most {MOST_FIELDS} fields.", field="fields")
        if self.anchor and self.anchor not in names:
            raise BadInput(
                f"The anchor “{self.anchor}” is not a field; the fields are {', '.join(names) or 'none yet'}.",
                field="anchor",
            )
        if not names:
            raise BadInput("A record template needs a field.", field="fields")
        for f in self.fields:
            _check(f)
        for group in self.opens:
            unknown = [name for name in group if name not in names]
            if unknown or not group:
                raise BadInput(
                    f"“{unknown[0]}”, which a record needs, is not a field."
                    if unknown
                    else "A group of fields that a record needs names one at least.",
                    field="opens",
                )
        anchor = self.anchor_field
        if anchor is not None and anchor.cues:
            raise BadInput(
                "The anchor field takes every span of its types; it has no cue words.", field="anchor"
            )
        if anchor is not None and anchor.many:
            raise BadInput("The anchor field takes one value.", field="anchor")

    @property
    def anchor_field(self) -> Field | None:
        """None where records stand for sentences, paragraphs or texts."""
        return next((f for f in self.fields if f.name == self.anchor), None) if self.anchor else None

    @cached_property
    def filled(self) -> tuple[Field, ...]:
        """The fields that values are linked to: all but the anchor."""
        return tuple(f for f in self.fields if f.name != self.anchor)

    def field_called(self, name: str) -> Field:
        """Raises BadInput for one that it has not."""
        found = next((f for f in self.fields if f.name == name), None)
        if found is None:
            raise BadInput(f"There is no field “{name}” in “{self.name}”.", field=name)
        return found


def _check(f: Field) -> None:
    """Raises BadInput that names the field."""
    if not f.types and not f.default and not f.default_from:
        raise BadInput(f"The field “{f.name}” takes no entity type; choose at least one.", field="fields")
    if f.kind not in KINDS:
        raise BadInput(f"A kind of value is one of {', '.join(KINDS)}, not {f.kind!r}.", field="fields")
    if f.pattern:
        check_pattern(f.pattern)
    if f.unit and f.kind == "money" and f.unit not in CURRENCIES:
        raise BadInput(f"The field “{f.name}” is in an unknown currency, “{f.unit}”.", field="fields")
    if f.unit and f.kind == "quantity" and f.unit not in UNITS and not f.unit.startswith("{"):
        raise BadInput(
            f"The unit “{f.unit}” of the field “{f.name}” is no UCUM code that is known here, such as t, m3 or {{crate}}.",
            field="fields",
        )
    for bound in (f.least, f.most):
        if bound and f.kind in _MEASURED:
            try:
                Decimal(bound)
            except InvalidOperation:
                raise BadInput(f"“{bound}”, a bound of “{f.name}”, is no number.", field="fields") from None
        elif bound and f.kind not in ("date", "moment", "time"):
            raise BadInput(f"“{f.name}” has a bound, but no values that lie in an order.", field="fields")
