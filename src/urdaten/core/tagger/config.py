"""The training config as a short TOML file: every setting with its default and a line on it."""

from __future__ import annotations

import tomllib
from difflib import get_close_matches
from typing import Any

from urdaten.core.tagger.settings import FEATURE_GROUPS, SETTINGS, TrainingSettings
from urdaten.errors import BadSettings

_NAMES = [*(setting.name for setting in SETTINGS), "features"]


def write_config(settings: TrainingSettings) -> str:
    """The full file for these settings."""
    lines = ["# Training config. Leave a line out to take its default.", ""]
    for setting in SETTINGS:
        lines += [
            f"# {setting.help} Default {setting.default}; {setting.least:g} to {setting.most:g}.",
            f"{setting.name} = {getattr(settings, setting.name)}",
            "",
        ]
    groups = ", ".join(f'"{group}"' for group in settings.features)
    lines += [f"# Feature groups in use, of {', '.join(FEATURE_GROUPS)}.", f"features = [{groups}]", ""]
    return "\n".join(lines)


def read_config(source: str) -> TrainingSettings:
    """Settings of a file. Raises BadSettings that names the line, the key or the value that is wrong."""
    try:
        values: dict[str, Any] = tomllib.loads(source)
    except tomllib.TOMLDecodeError as fault:
        raise BadSettings(f"The config is no TOML: {fault}.") from fault
    for name, value in values.items():
        if name not in _NAMES:
            near = get_close_matches(name, _NAMES, n=1)
            hint = f"did you mean {near[0]!r}?" if near else f"the settings are {', '.join(_NAMES)}."
            raise BadSettings(f"There is no setting {name!r}; {hint}", field=name)
        _check_kind(name, value)
    return TrainingSettings.from_dict(values)


def _check_kind(name: str, value: object) -> None:
    if name == "features":
        if not isinstance(value, list) or not all(isinstance(group, str) for group in value):
            raise BadSettings("features is a list of names in quotes.", field=name)
        return
    whole = isinstance(next(s.default for s in SETTINGS if s.name == name), int)
    fits = type(value) is int if whole else type(value) in (int, float)
    if not fits:
        kind = "a whole number" if whole else "a number"
        raise BadSettings(f"{name} is {kind}, not {value!r}.", field=name)
