"""The training config as a short TOML file: every setting with its default and a line on it."""

from __future__ import annotations

import tomllib
from difflib import get_close_matches
from typing import Any

from urdaten.core.tagger.settings import CHOICES, GROUP_HELP, PRESETS, SETTINGS, TrainingSettings
from urdaten.errors import BadSettings

_LISTS = ("features", "types")
_NAMES = [*(choice.name for choice in CHOICES), *(setting.name for setting in SETTINGS), *_LISTS]


def preset(name: str) -> TrainingSettings:
    """The settings of a preset. Raises BadSettings for a name that there is not."""
    if name not in PRESETS:
        raise BadSettings(f"There is no preset {name!r}; there are {', '.join(PRESETS)}.", field="preset")
    return PRESETS[name]


def write_config(settings: TrainingSettings) -> str:
    """The full file for these settings."""
    lines = ["# Training config. Leave a line out to take its default.", ""]
    for choice in CHOICES:
        options = " or ".join(choice.options)
        lines += [
            f"# {choice.help} Default {choice.default}; {options}.",
            f'{choice.name} = "{getattr(settings, choice.name)}"',
            "",
        ]
    for setting in SETTINGS:
        lines += [
            f"# {setting.help} Default {setting.default}; {setting.least:g} to {setting.most:g}.",
            f"{setting.name} = {getattr(settings, setting.name)}",
            "",
        ]
    lines += ["# Feature groups in use, of these:"]
    lines += [f"#   {group}: {what}" for group, what in GROUP_HELP.items()]
    lines += [f"features = {_quoted(settings.features)}", ""]
    lines += ["# Codes of the types to learn; none means all.", f"types = {_quoted(settings.types)}", ""]
    return "\n".join(lines)


def _quoted(names: tuple[str, ...]) -> str:
    return "[" + ", ".join(f'"{name}"' for name in names) + "]"


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
    if name in _LISTS:
        if not isinstance(value, list) or not all(isinstance(group, str) for group in value):
            raise BadSettings(f"{name} is a list of names in quotes.", field=name)
        return
    number = next((s for s in SETTINGS if s.name == name), None)
    if number is None:
        if not isinstance(value, str):
            raise BadSettings(f"{name} is a word in quotes, not {value!r}.", field=name)
        return
    whole = isinstance(number.default, int)
    fits = type(value) is int if whole else type(value) in (int, float)
    if not fits:
        kind = "a whole number" if whole else "a number"
        raise BadSettings(f"{name} is {kind}, not {value!r}.", field=name)
