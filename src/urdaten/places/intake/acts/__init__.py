"""Acts on imports: what other places may ask of them."""

from urdaten.places.intake.acts.deciding import Arrival, Deciding
from urdaten.places.intake.acts.keeping import Keeping
from urdaten.places.intake.acts.looking import Look
from urdaten.places.intake.acts.store import (
    KEEP,
    LOOK,
    Intake,
    SavedPlan,
    add_file,
    begin,
    change_plan,
    files_into,
    keep_looked,
    keep_report,
    read_intake,
    read_intakes,
    read_plans,
    refusals_of,
    remove_intake,
    remove_plan,
    save_plan,
    start,
)

__all__ = [
    "KEEP",
    "LOOK",
    "Arrival",
    "Deciding",
    "Intake",
    "Keeping",
    "Look",
    "SavedPlan",
    "add_file",
    "begin",
    "change_plan",
    "files_into",
    "keep_looked",
    "keep_report",
    "read_intake",
    "read_intakes",
    "read_plans",
    "refusals_of",
    "remove_intake",
    "remove_plan",
    "save_plan",
    "start",
]
