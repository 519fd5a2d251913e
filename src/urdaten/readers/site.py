"""Pages of a web site: from a start address along its links, within bounds, as its robots.txt allows."""

from __future__ import annotations

import ipaddress
import socket
import time
from collections import deque
from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass, field
from typing import Any
from urllib.parse import urldefrag, urljoin, urlsplit, urlunsplit

import httpcore
from protego import Protego

from urdaten.errors import BadFile, BadInput, Stopped
from urdaten.readers.document import Refusal
from urdaten.readers.encoding import decode
from urdaten.readers.html import tree_of

AGENT = "Urdaten"
MOST_PAGES, DEEPEST, LONGEST_S = 5_000, 20, 3_600.0
MOST_BYTES = 10_000_000
MOST_OF_ALL = 500_000_000
MOST_REDIRECTS = 5
# For one page on the whole, and for one answer of the network, in seconds.
PAGE_S, WAIT_S = 30.0, 10.0
# Pages, and what else is read of what sites hold.
_KINDS = ("text/html", "application/xhtml+xml", "text/plain", "text/markdown", "application/pdf")
_LONGEST_ADDRESS = 2_000


@dataclass(frozen=True, kw_only=True)
class Crawl:
    """Where to begin, and how far to go."""

    start: str
    # Links away from the start.
    depth: int = 3
    pages: int = 200
    seconds: float = 600.0
    per_second: float = 2.0
    # Addresses of this machine and of private networks as well.
    local: bool = False

    def check(self) -> None:
        """Raises BadInput with the field."""
        parts = urlsplit(self.start)
        if parts.scheme not in ("http", "https") or not parts.hostname or len(self.start) > _LONGEST_ADDRESS:
            raise BadInput("An address begins with http:// or https:// and names a host.", field="start")
        if parts.username or parts.password:
            raise BadInput("An address with a password in it is not asked for.", field="start")
        for name, least, most in (
            ("depth", 0, DEEPEST),
            ("pages", 1, MOST_PAGES),
            ("seconds", 1, LONGEST_S),
            ("per_second", 0.1, 20),
        ):
            if not least <= getattr(self, name) <= most:
                raise BadInput(f"“{name}” lies between {least} and {most:g}.", field=name)


@dataclass(frozen=True)
class Fetched:
    """A page's bytes, and the address where it is."""

    address: str
    data: bytes


class _Backend(httpcore.SyncBackend):
    """Connects to the addresses that a name was found to have when it was first asked, and to no others."""

    def __init__(self, *, local: bool) -> None:
        self._local = local
        self._known: dict[str, str] = {}

    def connect_tcp(
        self,
        host: str,
        port: int,
        timeout: float | None = None,
        local_address: str | None = None,
        socket_options: Iterable[Any] | None = None,
    ) -> httpcore.NetworkStream:
        if host not in self._known:
            self._known[host] = self._resolved(host, port)
        return super().connect_tcp(self._known[host], port, timeout, local_address, socket_options)

    def _resolved(self, host: str, port: int) -> str:
        try:
            found = [entry[4][0] for entry in socket.getaddrinfo(host, port, type=socket.SOCK_STREAM)]
        except (OSError, UnicodeError):
            raise BadFile(f"The name {host} leads nowhere.") from None
        for address in found:
            if not self._local and not ipaddress.ip_address(str(address).split("%")[0]).is_global:
                raise BadFile(
                    f"{host} is an address of this machine or a private network; whoever looks after the server can allow them."
                )
        return str(found[0])


@dataclass
class _Visit:
    """One crawl as it goes on."""

    crawl: Crawl
    stop: Callable[[], bool]
    seen: set[str] = field(default_factory=set)
    asked: float = 0.0

    def __post_init__(self) -> None:
        self.began = time.monotonic()
        self.pool = httpcore.ConnectionPool(
            max_connections=2, network_backend=_Backend(local=self.crawl.local), retries=0
        )
        self.pause = 1 / self.crawl.per_second

    def spent(self) -> bool:
        return time.monotonic() - self.began > self.crawl.seconds

    def wait(self) -> None:
        """Until the site may be asked again. Raises Stopped."""
        while True:
            if self.stop():
                raise Stopped("Stopped while pages were fetched; nothing was kept.")
            left = self.asked + self.pause - time.monotonic()
            if left <= 0:
                break
            time.sleep(min(left, 0.2))
        self.asked = time.monotonic()

    def get(self, address: str) -> tuple[str, str, bytes]:
        """Where it is in the end, what it is, and its bytes. Raises BadFile."""
        for _ in range(MOST_REDIRECTS + 1):
            self.wait()
            status, headers, data = self._once(address)
            if status not in (301, 302, 303, 307, 308):
                if status != 200:
                    raise BadFile(f"The site answered with status {status}.")
                return address, headers.get("content-type", ""), data
            onward = bare(urljoin(address, headers.get("location", "")))
            if host_of(onward) != host_of(self.crawl.start):
                raise BadFile(f"It leads on to another host, {host_of(onward)[0] or onward[:60]}.")
            self.seen.add(onward)
            address = onward
        raise BadFile(f"It leads on more than {MOST_REDIRECTS} times.")

    def _once(self, address: str) -> tuple[int, dict[str, str], bytes]:
        began = time.monotonic()
        timeouts = {"connect": WAIT_S, "read": WAIT_S, "write": WAIT_S, "pool": WAIT_S}
        headers = [("User-Agent", AGENT), ("Accept-Encoding", "identity"), ("Accept", ", ".join(_KINDS))]
        try:
            with self.pool.stream(
                "GET", address, headers=headers, extensions={"timeout": timeouts}
            ) as answer:
                held = bytearray()
                for block in answer.iter_stream():
                    held += block
                    if len(held) > MOST_BYTES:
                        raise BadFile(f"It has more than {MOST_BYTES // 1_000_000} MB.")
                    if time.monotonic() - began > PAGE_S:
                        raise BadFile(f"It did not come within {PAGE_S:g} seconds.")
                told = {
                    name.decode("latin-1").lower(): value.decode("latin-1") for name, value in answer.headers
                }
                return answer.status, told, bytes(held)
        except (httpcore.TimeoutException, TimeoutError):
            raise BadFile(f"The site said nothing for {WAIT_S:g} seconds.") from None
        except (
            httpcore.NetworkError,
            httpcore.ProtocolError,
            httpcore.UnsupportedProtocol,
            OSError,
            ValueError,
        ) as fault:
            raise BadFile(f"It could not be fetched ({type(fault).__name__}).") from None


def fetch_site(crawl: Crawl, stop: Callable[[], bool] = lambda: False) -> Iterator[Fetched | Refusal]:
    """The pages of a site, those nearest to the start first, on its host alone. Raises BadInput, and Stopped."""
    crawl.check()
    visit = _Visit(crawl, stop)
    with visit.pool:
        try:
            robots = _robots(visit)
        except BadFile as fault:
            yield Refusal(source=crawl.start, why=fault.message)
            return
        visit.pause = max(visit.pause, min(30.0, robots.crawl_delay(AGENT) or 0.0))
        start = bare(crawl.start)
        visit.seen.add(start)
        waiting: deque[tuple[str, int]] = deque([(start, 0)])
        count = size = 0
        while waiting:
            address, depth = waiting.popleft()
            if count >= crawl.pages or visit.spent():
                why = "pages" if count >= crawl.pages else "seconds"
                yield Refusal(
                    source=crawl.start,
                    why=f"The {getattr(crawl, why):g} {why} that were allowed are spent; {len(waiting) + 1} known pages were not fetched.",
                )
                return
            if not robots.can_fetch(address, AGENT):
                yield Refusal(source=address, why="The site's robots.txt asks programs to leave it out.")
                continue
            try:
                where, kind, data = visit.get(address)
                if kind.split(";")[0].strip().lower() not in _KINDS:
                    raise BadFile(f"It is {kind.split(';')[0] or 'of no kind'}, which is not read.")
                if not robots.can_fetch(where, AGENT):
                    raise BadFile("It leads on to what the site's robots.txt asks programs to leave out.")
                data = _in_utf8(data, kind)
            except BadFile as fault:
                yield Refusal(source=address, why=fault.message)
                continue
            count, size = count + 1, size + len(data)
            yield Fetched(where, data)
            if size > MOST_OF_ALL:
                yield Refusal(
                    source=crawl.start,
                    why=f"Its pages come to more than {MOST_OF_ALL // 1_000_000} MB; the rest was not fetched.",
                )
                return
            if depth < crawl.depth and "html" in kind:
                for link in links_of(data, where):
                    if host_of(link) == host_of(start) and link not in visit.seen:
                        visit.seen.add(link)
                        waiting.append((link, depth + 1))


def _robots(visit: _Visit) -> Any:
    """What the site asks of programs; a site without robots.txt asks nothing. Raises BadFile where it cannot be reached."""
    parts = urlsplit(visit.crawl.start)
    address = urlunsplit((parts.scheme, parts.netloc, "/robots.txt", "", ""))
    visit.wait()
    status, _, data = visit._once(address)
    return Protego.parse(data.decode("utf-8", errors="replace") if status == 200 else "")


def _in_utf8(data: bytes, kind: str) -> bytes:
    """What the head of the answer says of the encoding would be lost: such pages are kept in UTF-8."""
    charset = next(
        (
            part.partition("=")[2].strip(" \"'")
            for part in kind.split(";")
            if part.strip().lower().startswith("charset")
        ),
        "",
    )
    if not charset or charset.lower() in ("utf-8", "utf8") or "text" not in kind:
        return data
    return decode(data, declared=charset).text.encode()


def links_of(data: bytes, address: str) -> list[str]:
    """Where a page leads, each address once, without what stands behind #; what it asks not to follow is left out."""
    try:
        tree = tree_of(decode(data).text)
    except BadFile:
        return []
    base = next(iter(tree.xpath("//base/@href")), "")
    root = urljoin(address, str(base)) if base else address
    found: dict[str, None] = {}
    for link in tree.iter("a", "area"):
        href = (link.get("href") or "").strip()
        if not href or "nofollow" in (link.get("rel") or "").lower().split():
            continue
        try:
            whole = bare(urljoin(root, href))
        except ValueError:
            continue
        if whole.startswith(("http://", "https://")) and len(whole) <= _LONGEST_ADDRESS:
            found[whole] = None
    return list(found)


def bare(address: str) -> str:
    """An address without what stands behind #, with a path."""
    parts = urlsplit(urldefrag(address)[0])
    return urlunsplit((parts.scheme.lower(), parts.netloc.lower(), parts.path or "/", parts.query, ""))


def host_of(address: str) -> tuple[str, int | None]:
    """Name and port."""
    parts = urlsplit(address)
    try:
        return parts.hostname or "", parts.port or {"http": 80, "https": 443}.get(parts.scheme)
    except ValueError:
        return "", None
