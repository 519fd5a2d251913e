"""Mails: the words of one, with what is quoted and the signature marked off."""

from __future__ import annotations

import email
import re
from collections.abc import Iterator
from email import policy
from email.message import EmailMessage, Message
from typing import Any

from urdaten.errors import BadFile
from urdaten.readers.blocks import lines_of
from urdaten.readers.dates import day_of_mail
from urdaten.readers.document import Document, Found, How, Item, Refusal, text_meta
from urdaten.readers.encoding import decode
from urdaten.readers.html import declared_in, tree_of
from urdaten.readers.quoted import marked_off, thread_of, without

MOST_PARTS = 1_000
# Names of headers, one of which every mail has.
_HEADS = frozenset({"from", "date", "subject", "to", "received", "message-id", "content-type"})
_START = re.compile(rb"^From [^\n]{1,200}\n(?=[!-9;-~]+:|\r?\n)", re.MULTILINE)
_STUFFED = re.compile(rb"^>(>*From )", re.MULTILINE)


def read_mail(data: bytes, source: str, how: How) -> Iterator[Item]:
    """One document. Raises BadFile for what holds no words."""
    yield Found(source=source, kind="eml")
    yield mail_of(data, source, "", how)


def read_mailbox(data: bytes, source: str, how: How) -> Iterator[Item]:
    """A document for each mail of a file that holds many, one after the other."""
    yield Found(source=source, kind="mbox")
    starts = [found.start() for found in _START.finditer(data) if _begins(data, found.start())]
    if not starts:
        raise BadFile("This holds no mails: each begins with a line “From ” and who sent it.")
    for number, (start, end) in enumerate(zip(starts, [*starts[1:], len(data)], strict=True), start=1):
        whole = data[data.index(b"\n", start) + 1 : end]
        place = f"mail {number}"
        try:
            yield mail_of(_STUFFED.sub(rb"\1", whole), source, place, how)
        except BadFile as fault:
            yield Refusal(
                source=source, place=place, why=fault.message, content=whole[:1000].decode(errors="replace")
            )


def _begins(data: bytes, at: int) -> bool:
    """A mail of a mailbox begins at its head or after an empty line."""
    return at == 0 or data[max(0, at - 4) : at].endswith((b"\n\n", b"\r\n\r\n"))


def mail_of(data: bytes, source: str, place: str, how: How) -> Document:
    """A mail as a document: its title is the subject, its group the subject without Re and Fwd. Raises BadFile."""
    try:
        message: EmailMessage = email.message_from_bytes(data, policy=policy.default)
    except RecursionError:
        raise BadFile("Its parts lie too deep in each other.") from None
    if not _HEADS & {name.lower() for name in message.keys()}:  # noqa: SIM118 - a mail is no dict
        raise BadFile("This is no mail: none of From, To, Date and Subject stands at its head.")
    message, note = _with_its_boundary(message, data)
    plain: list[str] = []
    pages: list[str] = []
    attached: list[str] = []
    for number, part in enumerate(_parts(message)):
        if number > MOST_PARTS:
            raise BadFile(f"It has more than {MOST_PARTS} parts.")
        name = _said(part, "filename")
        if part.get_content_disposition() == "attachment" or (name and part.get_content_maintype() != "text"):
            attached.append(name or part.get_content_type())
        elif part.get_content_type() == "text/html":
            pages.append(_of_page(part, how))
        elif part.get_content_maintype() == "text":
            plain.append(_of_plain(part, how))
        else:
            attached.append(name or part.get_content_type())
        note = note or _amiss(part)
    words = "\n\n".join(text for text in plain if text.strip()) or "\n\n".join(pages)
    body, aside = marked_off(words)
    if how.without_quoted:
        body, aside = without(body, aside), ()
    if not body.strip():
        with_what = f" Attached: {', '.join(attached)[:200]}." if attached else ""
        raise BadFile(f"The mail holds no words of its own.{with_what}")
    subject = " ".join(_header(message, "subject").split())
    said = {name: _header(message, name) for name in ("from", "to", "cc", "message-id")}
    return Document(
        body=body,
        title=subject,
        dated=day_of_mail(_header(message, "date")),
        group=thread_of(subject),
        meta=text_meta(said | {"attached": "; ".join(attached)}),
        source=source,
        place=place,
        aside=aside,
        note=note,
    )


def _with_its_boundary(message: EmailMessage, data: bytes) -> tuple[EmailMessage, str]:
    """The mail, read by the mark that stands between its parts where its head names another one; and what was amiss."""
    if message.get_content_maintype() != "multipart" or isinstance(message.get_payload(), list):
        return message, ""
    body = data.replace(b"\r\n", b"\n").partition(b"\n\n")[2]
    marks = re.findall(rb"(?m)^--([^\s-][^\n]{0,69}?)\s*\n(?=content-|\n)", body, re.IGNORECASE)
    kind = message.get_content_type().encode()
    head = b'Content-Type: %s; boundary="%s"' % (kind, marks[0]) if marks else b"Content-Type: text/plain"
    again = email.message_from_bytes(head + b"\n\n" + body, policy=policy.default)
    for name, value in message.raw_items():
        if name.lower() not in ("content-type", "content-transfer-encoding"):
            again.set_raw(name, value)
    return again, "Its parts are marked otherwise than its head says; they were found all the same."


def _amiss(part: EmailMessage) -> str:
    broken = [type(defect).__name__ for defect in part.defects if "Base64" in type(defect).__name__]
    return "Its base64 is damaged; what could be read of it stands here." if broken else ""


def _parts(message: Message) -> Iterator[EmailMessage]:
    """What is shown of a mail, in order: of alternatives the plain one, where it says anything."""
    stack: list[Any] = [message]
    while stack:
        part = stack.pop()
        kind = part.get_content_type()
        inner = part.get_payload()
        if not part.is_multipart() or not isinstance(inner, list):
            yield part
        elif kind == "multipart/alternative":
            plain = [
                one
                for one in inner
                if one.get_content_type() == "text/plain" and (one.get_payload() or "").strip()
            ]
            stack += (plain or list(reversed(inner)))[:1]
        else:
            stack += reversed(inner)


def _said(part: EmailMessage, what: str) -> str:
    try:
        return (part.get_filename() or "") if what == "filename" else (part.get_content_charset() or "")
    except (LookupError, ValueError, TypeError, AttributeError):
        return ""


def _header(message: Message, name: str) -> str:
    try:
        value = str(message.get(name) or "")
    except (ValueError, TypeError, AttributeError, IndexError, LookupError):
        # A header that the parser gives up on is shown as it stands.
        value = next((str(v) for k, v in message.raw_items() if k.lower() == name), "")
    return value.encode(errors="surrogateescape").decode(errors="replace").replace("\0", "")


def _decoded(part: EmailMessage, how: How, declared: str = "") -> str:
    data = part.get_payload(decode=True)
    if not isinstance(data, bytes):
        return ""
    return decode(data, how.encoding, _said(part, "charset") or declared).text


def _of_plain(part: EmailMessage, how: How) -> str:
    text = _decoded(part, how)
    if str(part.get_param("format", "")).lower() == "flowed":
        text = _reflowed(text, joined=str(part.get_param("delsp", "")).lower() == "yes")
    return text


def _of_page(part: EmailMessage, how: How) -> str:
    data = part.get_payload(decode=True)
    html = _decoded(part, how, declared_in(data) if isinstance(data, bytes) else "")
    return "\n".join(lines_of(tree_of(html))) if html.strip() else ""


def _reflowed(text: str, *, joined: bool) -> str:
    """Lines that a program broke are whole again (RFC 3676)."""
    lines: list[str] = []
    goes_on, depth = False, 0
    for line in text.split("\n"):
        marks = len(line) - len(line.lstrip(">"))
        rest = line[marks:].removeprefix(" ")
        soft = rest.endswith(" ") and rest != "-- "
        words = rest[:-1] if soft and joined else rest
        if goes_on and marks == depth:
            lines[-1] += words
        else:
            lines.append(">" * marks + (" " if marks else "") + words)
        goes_on, depth = soft, marks
    return "\n".join(lines)
