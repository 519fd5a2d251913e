"""The process that reads files for another one: it is given little memory, and may be ended at any moment."""

from __future__ import annotations

import json
import resource
import sys
from pathlib import Path

from urdaten.readers.reading import read_source
from urdaten.readers.wire import how_of, to_line


def main() -> None:
    """Read a request from the input: `{"how": …, "files": [[number, name, path], …], "memory": bytes}`; write items as lines."""
    request = json.loads(sys.stdin.readline())
    memory = request["memory"]
    resource.setrlimit(resource.RLIMIT_AS, (memory, memory))
    # Nothing is written but the answer, and nobody is left a picture of this memory.
    resource.setrlimit(resource.RLIMIT_FSIZE, (0, 0))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    how = how_of(request["how"])
    out = sys.stdout
    for number, name, path in request["files"]:
        out.write(json.dumps(["begins", number]) + "\n")
        out.flush()
        for item in read_source(Path(path).read_bytes(), name, how):
            out.write(to_line(item))
            out.flush()
        out.write(json.dumps(["ends", number]) + "\n")
        out.flush()


main()
