"""`urdaten tagger`: train, score and use a tagger on files, without the application."""

from __future__ import annotations

import json
import signal
import sys
from collections.abc import Iterator
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer
from rich.console import Console

from urdaten.errors import BadFile, BadInput

# The numerics are loaded by the command that needs them: starting the application must not wait for them.
if TYPE_CHECKING:
    from urdaten.core.formats import Sample
    from urdaten.core.lists import Gazetteer
    from urdaten.core.scoring import Figures
    from urdaten.core.tagger import Neighbours, Progress, Tagger

tagger = typer.Typer(no_args_is_help=True, help="A tagger on files, without the application.")

# Unsigned texts are counted in portions of about so many code points.
SIGNS_AT_ONCE = 5_000_000
KeepGood = Annotated[bool, typer.Option(help="Report bad lines and go on with the others.")]


def _columns(path: Path) -> bool:
    """Is a file of BIO columns meant? Its ending says so; all others are JSON Lines."""
    return path.suffix in (".bio", ".tsv")


def _read(path: Path, keep_good: bool) -> list[Sample]:
    from urdaten.core.formats import read_columns, read_samples

    read = read_columns if _columns(path) else read_samples
    samples, problems = read(_text_of(path).split("\n"), keep_good=keep_good)
    for problem in problems:
        _tell(problem)
    return samples


def _tell(problem: str) -> None:
    print(f"passed over: {problem}", file=sys.stderr)


def _load(path: Path) -> Tagger:
    from urdaten.core.tagger import read_file
    from urdaten.installed import general_lexicon

    try:
        loaded = read_file(path, general_lexicon())
    except FileNotFoundError as fault:
        raise BadFile(f"There is no file {path}.") from fault
    if loaded.manifest.get("lexicon") and loaded.table.general is None:
        print(
            "The general lexicon that this tagger learnt with is not installed here; it works without, and finds less.",
            file=sys.stderr,
        )
    return loaded


Lists = Annotated[
    list[str] | None,
    typer.Option(
        "--list",
        metavar="NAME=FILE:TYPE",
        help="Names of a type: a CSV table with the columns name and variants, or one name a line. Can be given again.",
    ),
]


def _gazetteer(given: list[str] | None) -> Gazetteer | None:
    """The lists that options name. Raises BadInput for an option that is no NAME=FILE:TYPE, BadFile for a bad file."""
    import io

    import regex

    from urdaten.core.formats import read_names
    from urdaten.core.lists import Entry, Gazetteer, NameList
    from urdaten.core.spans import TYPE_CODE

    made: dict[str, NameList] = {}
    for option in given or ():
        name, _, rest = option.partition("=")
        file, _, code = rest.rpartition(":")
        if not (name.strip() and file and regex.fullmatch(TYPE_CODE, code)):
            raise BadInput(f"A list is given as NAME=FILE:TYPE, not {option!r}.", field="--list")
        if name in made:
            raise BadInput(f"There are two lists “{name}”; give each a name of its own.", field="--list")
        path = Path(file)
        try:
            names = read_names(io.StringIO(_text_of(path), newline=""))
        except BadFile as fault:
            raise BadFile(f"{path}: {fault.message}") from fault
        entries = tuple(Entry(preferred=one.preferred, variants=one.variants) for one in names)
        made[name] = NameList(name=name, type=code, entries=entries)
    return Gazetteer(made.values()) if made else None


Preset = Annotated[
    str, typer.Option(help="Settings to begin with: thorough or quick; early is for projects.")
]


@tagger.command("config")
def config(preset: Preset = "thorough") -> None:
    """Print the full training config with every value and a line on each."""
    from urdaten.core.tagger import preset as preset_named
    from urdaten.core.tagger import write_config

    print(write_config(preset_named(preset)), end="")


@tagger.command("train")
def train(
    samples: Annotated[
        Path, typer.Argument(metavar="TRAIN", help="JSON Lines, or BIO columns (.bio, .tsv).")
    ],
    out: Annotated[Path, typer.Option(help="Where the tagger is written.")],
    dev: Annotated[Path | None, typer.Option(help="Texts to choose the best epoch on.")] = None,
    config: Annotated[Path | None, typer.Option(help="A config file as `tagger config` prints it.")] = None,
    unsigned: Annotated[
        list[Path] | None,
        typer.Option(
            help="Texts without spans to learn word classes from: JSON Lines (.jsonl), else plain text. Can be given again."
        ),
    ] = None,
    lists: Lists = None,
    preset: Preset = "thorough",
    threads: Annotated[
        int, typer.Option(min=1, help="Processor cores to use, at most two; changes no result.")
    ] = 1,
    keep_good: KeepGood = False,
) -> None:
    """Train a tagger; without --dev, inner folds choose the number of epochs and the regularisation.

    Ctrl-C keeps the best so far.
    """
    from urdaten.core.tagger import preset as preset_named
    from urdaten.core.tagger import read_config, to_bytes
    from urdaten.core.tagger.samples import train_on_samples
    from urdaten.installed import general_lexicon

    settings = read_config(_text_of(config)) if config else preset_named(preset)
    training = _read(samples, keep_good)
    held_out = _read(dev, keep_good) if dev else []
    _check_writable(out)
    gazetteer = _gazetteer(lists)
    neighbours = _count(unsigned) if unsigned else None
    with _Report() as report:
        made = train_on_samples(
            training,
            held_out,
            settings,
            report.show,
            lists=gazetteer,
            unsigned=neighbours,
            general=general_lexicon(),
            threads=threads,
            should_stop=report.should_stop,
        )
    data = to_bytes(made)
    out.write_bytes(data)
    best = made.manifest["best_epoch"]
    how = ", stopped early" if made.manifest["stopped"] else ""
    print(f"{out}: {len(made.types)} types, epoch {best}{how}, {len(data) / 1e6:.2f} MB")


def _check_writable(path: Path) -> None:
    """Raises BadFile now where the tagger could not be kept after all the work."""
    new = not path.exists()
    try:
        with path.open("ab"):
            pass
    except OSError as fault:
        raise BadFile(f"{path} cannot be written: {fault.strerror}.") from fault
    if new:
        path.unlink()


def _count(paths: list[Path]) -> Neighbours:
    """What the texts of these files tell of words; they are read as a stream."""
    from urdaten.core.formats import read_texts
    from urdaten.core.tagger import Neighbours
    from urdaten.core.text import batch_of

    made = Neighbours()
    for path in paths:
        try:
            with path.open(encoding="utf-8-sig") as lines:
                texts = read_texts(lines, plain=path.suffix not in (".jsonl", ".json"))
                for portion in _portions(texts):
                    made.add_batch(batch_of(portion))
        except FileNotFoundError as fault:
            raise BadFile(f"There is no file {path}.") from fault
        except UnicodeDecodeError as fault:
            raise BadFile(f"{path} is not UTF-8.") from fault
        except BadFile as fault:
            raise BadFile(f"{path}: {fault.message}") from fault
    print(f"{made.tokens} tokens of {made.texts} unsigned texts are counted.", file=sys.stderr)
    return made


def _portions(texts: Iterator[str]) -> Iterator[list[str]]:
    """Texts, about so many code points of them at a time."""
    held: list[str] = []
    size = 0
    for text in texts:
        held.append(text)
        size += len(text)
        if size >= SIGNS_AT_ONCE:
            yield held
            held, size = [], 0
    if held:
        yield held


def _text_of(path: Path) -> str:
    try:
        return path.read_text(encoding="utf-8")
    except FileNotFoundError as fault:
        raise BadFile(f"There is no file {path}.") from fault
    except UnicodeDecodeError as fault:
        raise BadFile(f"{path} is not UTF-8 (byte {fault.start}).") from fault


class _Report:
    """Progress on the terminal, one line that changes; plain lines where nobody watches. Ctrl-C stops."""

    def __init__(self) -> None:
        self._console = Console(stderr=True)
        self._asked = False

    def __enter__(self) -> _Report:
        self._before = signal.signal(signal.SIGINT, self._ask)
        return self

    def __exit__(self, *_: object) -> None:
        signal.signal(signal.SIGINT, self._before)
        if self._console.is_terminal:
            self._console.print()

    def _ask(self, *_: object) -> None:
        self._asked = True

    def should_stop(self) -> bool:
        return self._asked

    def show(self, stage: str, progress: Progress) -> None:
        dev_f1 = (
            "" if progress.dev_f1 is None else f", F1 {progress.dev_f1:.3f}, best at {progress.best_epoch}"
        )
        each = progress.seconds / progress.epoch
        left = each * (progress.epochs - progress.epoch)
        line = (
            f"{stage}: epoch {progress.epoch} of at most {progress.epochs},"
            f" objective {progress.objective:.3f}{dev_f1}, at most {left:.0f} s left"
        )
        self._console.print(
            line,
            highlight=False,
            end="\r" if self._console.is_terminal else "\n",
            overflow="crop",
            no_wrap=True,
        )


def _figures(figures: Figures) -> dict[str, float | None]:
    return {"precision": figures.precision, "recall": figures.recall, "f1": figures.f1}


@tagger.command("score")
def score(
    model: Annotated[Path, typer.Argument(help="A tagger that `tagger train` wrote.")],
    samples: Annotated[Path, typer.Argument(metavar="TEST", help="JSON Lines, or BIO columns (.bio, .tsv).")],
    lists: Lists = None,
    as_json: Annotated[bool, typer.Option("--json", help="Print one JSON object.")] = False,
    keep_good: KeepGood = False,
) -> None:
    """Strict span precision, recall and F1: over all, by type, and for surfaces seen in training or not."""
    from urdaten.core.tagger.samples import score_samples

    result = score_samples(_load(model), _read(samples, keep_good), _gazetteer(lists))
    micro, seen, unseen = map(_figures, (result.scores.overall, result.seen, result.unseen))
    types = {code: _figures(figures) for code, figures in result.scores.types.items()}
    if as_json:
        print(json.dumps({"micro": micro, "types": types, "seen": seen, "unseen": unseen}))
        return
    for name, figures in {"all": micro, **types, "seen": seen, "unseen": unseen}.items():
        shown = "  ".join("  – " if value is None else f"{value:.3f}" for value in figures.values())
        print(f"{name:8} {shown}")


@tagger.command("explain")
def explain(
    model: Annotated[Path, typer.Argument(help="A tagger.")],
    text: Annotated[str, typer.Option(help="The text whose spans are explained.")],
    lists: Lists = None,
    most: Annotated[int, typer.Option(help="How many contributions are shown for each span.")] = 8,
) -> None:
    """Say why the tagger sets each span of a text, against the best it would say without it."""
    from urdaten.core.formats import Sample
    from urdaten.core.tagger import explain as explain_span
    from urdaten.core.tagger.samples import check_lists, inputs_of
    from urdaten.core.text import Vocabulary

    loaded = _load(model)
    gazetteer = _gazetteer(lists)
    check_lists(loaded, gazetteer)
    vocabulary = Vocabulary()
    (item,) = inputs_of([Sample(text=text)], vocabulary, gazetteer)
    (spans,) = loaded.tag([item], vocabulary)
    for span in spans:
        why = explain_span(loaded, item, vocabulary, span)
        rest = (
            ", ".join(f"{s.type} “{text[s.start : s.end]}”" for s in why.runner_up) or "nothing in its place"
        )
        print(f"{span.type} “{text[span.start : span.end]}”, {span.probability:.0%}")
        print(f"  ahead by {why.difference:.2f} of: {rest}")
        for part in why.contributions[:most]:
            at = f" of “{part.word}” ({part.offset:+d})" if part.word else ""
            print(f"  {part.value:+8.2f}  {part.feature}{at}")
        others = sum(part.value for part in why.contributions[most:])
        if others:
            print(f"  {others:+8.2f}  {len(why.contributions) - most} more")
    if not spans:
        print("The tagger finds nothing here.")


@tagger.command("tag")
def tag(
    model: Annotated[Path, typer.Argument(help="A tagger.")],
    lists: Lists = None,
    columns: Annotated[bool, typer.Option(help="Write BIO columns and not JSON Lines.")] = False,
    least: Annotated[
        float | None,
        typer.Option(
            help="Write all spans at least so probable, also those that overlap, the likeliest first."
        ),
    ] = None,
    keep_good: KeepGood = False,
) -> None:
    """Read texts as JSON Lines from standard input and write them with the spans found.

    They are read and written a portion at a time; texts of one group are read together where they stand one after another.
    """
    from urdaten.core.formats import stream_samples, write_columns, write_samples
    from urdaten.core.tagger.samples import tag_stream

    loaded = _load(model)
    samples = stream_samples(sys.stdin, _tell if keep_good else None)
    group = ""
    for portion, found in tag_stream(loaded, samples, least, _gazetteer(lists)):
        lines = write_columns(portion, found, group) if columns else write_samples(portion, found)
        sys.stdout.writelines(lines)
        group = portion[-1].group
