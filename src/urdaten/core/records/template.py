"""Record templates: which fields a record has and which spans may fill them."""

from __future__ import annotations

from dataclasses import dataclass, field

from urdaten.errors import BadInput


@dataclass(frozen=True, kw_only=True)
class Field:
    """One field. It takes at most one span of each of its types.

    `cues` are words, or several in a row, that, standing before a span in its sentence, say that the span belongs to this
    field; a field without cues takes what no other field's cue claims.
    """

    name: str
    types: tuple[str, ...]
    cues: tuple[str, ...] = ()
    required: bool = False


@dataclass(frozen=True, kw_only=True)
class Template:
    """A record template. Mentions of one value of the anchor field make one record of a text, or several (see assemble)."""

    name: str
    anchor: str
    fields: tuple[Field, ...] = field(default_factory=tuple)

    def __post_init__(self) -> None:
        names = [f.name for f in self.fields]
        repeated = sorted({name for name in names if names.count(name) > 1})
        if repeated:
            raise BadInput(f"The template names the field “{repeated[0]}” twice.", field="fields")
        if self.anchor not in names:
            raise BadInput(
                f"The anchor “{self.anchor}” is not a field; the fields are {', '.join(names) or 'none yet'}.",
                field="anchor",
            )
        for f in self.fields:
            if not f.types:
                raise BadInput(
                    f"The field “{f.name}” takes no entity type; choose at least one.", field="fields"
                )
        if self.anchor_field.cues:
            raise BadInput(
                "The anchor field takes every span of its types; it has no cue words.", field="anchor"
            )

    @property
    def anchor_field(self) -> Field:
        return next(f for f in self.fields if f.name == self.anchor)
