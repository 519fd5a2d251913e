"""Acts on imports: what other places may ask of them."""

from urdaten.places.intake.acts.carrying import Carrying, has_sources
from urdaten.places.intake.acts.deciding import Arrival, Deciding
from urdaten.places.intake.acts.keeping import Keeping, carried_counts
from urdaten.places.intake.acts.labelling import add_types
from urdaten.places.intake.acts.looking import Look
from urdaten.places.intake.acts.store import (
    FETCH,
    KEEP,
    LOOK,
    Intake,
    SavedPlan,
    add_file,
    begin,
    change_plan,
    files_into,
    keep_looked,
    keep_pages,
    keep_report,
    read_intake,
    read_intakes,
    read_plans,
    refusals_of,
    remove_intake,
    remove_plan,
    save_plan,
    start,
    start_fetch,
)

__all__ = [
    "FETCH",
    "KEEP",
    "LOOK",
    "Arrival",
    "Carrying",
    "Deciding",
    "Intake",
    "Keeping",
    "Look",
    "SavedPlan",
    "add_file",
    "add_types",
    "begin",
    "carried_counts",
    "change_plan",
    "files_into",
    "has_sources",
    "keep_looked",
    "keep_pages",
    "keep_report",
    "read_intake",
    "read_intakes",
    "read_plans",
    "refusals_of",
    "remove_intake",
    "remove_plan",
    "save_plan",
    "start",
    "start_fetch",
]
