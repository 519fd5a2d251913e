"""What tests do with pipelines."""

from __future__ import annotations

from typing import Any

from conftest import Api
from urdaten.core.pipeline import Plan, StagePlan, plan_values
from urdaten.core.pipeline.plan import SETTINGS

Values = dict[str, Any]


def stage(name: str, kind: str, **settings: Any) -> dict[str, Any]:
    """A stage with all that it has in JSON."""
    made = StagePlan(name=name, kind=kind, settings=SETTINGS[kind](**settings))
    values: dict[str, Any] = plan_values(Plan(stages=(made,)))["stages"][0]
    return values


SHIPS = stage("ships", "lists", lists=("ships",))
GOODS = stage("goods", "lists", lists=("goods",))


def plan_of(api: Api) -> Values:
    plan: Values = api.get("/pipeline")["version"]["plan"]
    return plan


def keep(api: Api, plan: Values, seen: int, expect: int = 200) -> Any:
    return api.put("/pipeline", {"plan": plan, "seen": seen}, expect=expect)


def answer(api: Api, number: int = 0) -> list[tuple[str, str]]:
    """What the Desk suggests in the sentence with this number in the queue."""
    item = api.get("/desk/queue")["items"][number]
    opened = api.get(f"/desk/sentences/{item['id']}")
    at = opened["start"]
    return [(opened["words"][s["start"] - at : s["end"] - at], s["type"]) for s in opened["resolved"]]


def with_lists(api: Api) -> None:
    """Vessels and cargoes; a list of each, of which one says cargo of the first word of a ship."""
    api.post("/types", {"code": "VES", "name": "vessel", "key": "v", "hue": 1})
    api.post("/types", {"code": "CGO", "name": "cargo", "key": "c", "hue": 2})
    for name, kind, names in (
        ("ships", "VES", ["Amber Quay", "Haldis"]),
        ("goods", "CGO", ["Amber", "salt"]),
    ):
        made = api.post("/lists", {"name": name, "type": kind})
        for one in names:
            api.post(f"/lists/{made['id']}/entries", {"preferred": one})
