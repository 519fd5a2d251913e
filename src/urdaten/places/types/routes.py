"""Routes of the types place."""

from __future__ import annotations

from dataclasses import asdict
from typing import Annotated, Any

from fastapi import APIRouter, Path, Query

from urdaten.places.desk import acts as desk
from urdaten.places.team.acts import hold_overlap
from urdaten.places.team.wire import Id, Lead, OfProject
from urdaten.places.types import acts
from urdaten.places.types.wire import (
    ChangedTypeWish,
    ComparisonShown,
    DifferenceShown,
    FieldShown,
    MergeWish,
    OverlapWish,
    PreviewShown,
    SchemeSeen,
    SchemeShown,
    StepShown,
    TypeShown,
    TypeWish,
    VersionShown,
)
from urdaten.platform.web import Db

router = APIRouter(prefix="/api/projects/{project}/types", tags=["types"])
MOST_NUMBER = 2**31 - 1
VersionNumber = Annotated[int, Path(ge=1, le=MOST_NUMBER)]


def _draft(wish: TypeWish) -> acts.TypeDraft:
    values: dict[str, Any] = wish.model_dump(exclude={"version"})
    return acts.TypeDraft(
        **values | {name: tuple(values[name]) for name in ("counts", "counts_not", "rulings")}
    )


def _shown(made: acts.EntityType, spans: int) -> TypeShown:
    return TypeShown.model_validate(asdict(made) | {"spans": spans})


@router.get("", operation_id="readScheme")
def read(project: OfProject, db: Db) -> SchemeShown:
    counts = desk.span_counts(db, project.id)
    types = [_shown(t, counts.get(t.id, 0)) for t in acts.list_types(db, project.id)]
    return SchemeShown(version=acts.scheme_version(db, project.id), overlap=project.overlap, types=types)


@router.put("/overlap", status_code=204, operation_id="setOverlap")
def set_overlap(wish: OverlapWish, project: OfProject, me: Lead, db: Db) -> None:
    """Say how spans of one sentence may stand to each other; refused while some sentences break that."""
    hold_overlap(db, project.id, to_change=True)
    breaking = desk.overlapping_sentences(db, project.id, wish.overlap)
    acts.set_overlap(db, project, me.id, wish.overlap, breaking)


@router.post("", status_code=201, operation_id="addType")
def add(wish: TypeWish, project: OfProject, me: Lead, db: Db) -> TypeShown:
    return _shown(acts.add_type(db, project.id, me.id, _draft(wish)), 0)


@router.get("/versions", operation_id="listSchemeVersions")
def read_versions(project: OfProject, db: Db) -> list[VersionShown]:
    """Every version of the scheme, newest first, with what became of its types."""
    codes = acts.last_codes(db, project.id)
    return [_version(version, codes) for version in acts.read_versions(db, project.id)]


def _version(version: acts.Version, codes: dict[int, str]) -> VersionShown:
    steps = [
        StepShown(what=step.what, code=codes.get(step.type or 0), into=codes.get(step.into or 0))
        for step in version.step
    ]
    return VersionShown(
        number=version.number,
        digest=version.digest,
        who=version.who,
        at=version.at,
        types=len(version.types),
        step=steps,
    )


@router.get("/versions/compare", operation_id="compareSchemeVersions")
def compare(
    project: OfProject,
    db: Db,
    before: Annotated[int, Query(ge=1, le=MOST_NUMBER)],
    after: Annotated[int, Query(ge=1, le=MOST_NUMBER)],
) -> ComparisonShown:
    """How two versions of the scheme differ, type by type and field by field."""
    one = acts.read_version(db, project.id, before)
    other = acts.read_version(db, project.id, after)
    return ComparisonShown(
        before=before,
        after=after,
        overlap_before=one.overlap,
        overlap_after=other.overlap,
        differences=[
            DifferenceShown(
                code=d.code,
                what=d.what,
                fields=[FieldShown(name=name, was=was, now=now) for name, (was, now) in d.fields.items()],
            )
            for d in acts.compare(one, other)
        ],
    )


@router.post("/versions/{number}/restore", operation_id="restoreSchemeVersion")
def restore(number: VersionNumber, wish: SchemeSeen, project: OfProject, me: Lead, db: Db) -> SchemeShown:
    """Make the scheme what it was, as a new version."""
    hold_overlap(db, project.id, to_change=True)
    wanted = acts.read_version(db, project.id, number)
    breaking = desk.overlapping_sentences(db, project.id, wanted.overlap)
    acts.restore_version(db, project.id, me.id, number, wish.scheme, breaking)
    db.expire_all()
    counts = desk.span_counts(db, project.id)
    types = [_shown(t, counts.get(t.id, 0)) for t in acts.list_types(db, project.id)]
    return SchemeShown(version=acts.scheme_version(db, project.id), overlap=wanted.overlap, types=types)


@router.put("/{type_id}", operation_id="changeType")
def change(type_id: Id, wish: ChangedTypeWish, project: OfProject, me: Lead, db: Db) -> TypeShown:
    changed = acts.change_type(db, project.id, me.id, type_id, _draft(wish), wish.version)
    return _shown(changed, desk.span_counts(db, project.id).get(type_id, 0))


@router.get("/{type_id}/touched", operation_id="previewTypeChange")
def preview(
    type_id: Id, project: OfProject, db: Db, into: Annotated[int | None, Query(ge=0, le=MOST_NUMBER)] = None
) -> PreviewShown:
    """What retiring a type, or merging it into another, would touch; nothing is changed."""
    return PreviewShown.model_validate(acts.preview(db, project.id, type_id, into))


@router.post("/{type_id}/merge", operation_id="mergeType")
def merge(type_id: Id, wish: MergeWish, project: OfProject, me: Lead, db: Db) -> TypeShown:
    """Make a type part of another: spans, lists, rules and fields go with it."""
    merged = acts.merge_type(db, project.id, me.id, type_id, wish.into, wish.scheme)
    return _shown(merged, desk.span_counts(db, project.id).get(wish.into, 0))


@router.post("/{type_id}/retire", status_code=204, operation_id="retireType")
def retire(type_id: Id, wish: SchemeSeen, project: OfProject, me: Lead, db: Db) -> None:
    """Take a type out of the scheme, and its spans out of what stands; the log keeps them."""
    acts.retire_type(db, project.id, me.id, type_id, wish.scheme)
