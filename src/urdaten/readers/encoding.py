"""Bytes to characters."""

from __future__ import annotations

import codecs
from dataclasses import dataclass

import charset_normalizer

from urdaten.errors import BadFile

# Those that people are offered besides what was found.
ENCODINGS = (
    *("utf-8", "cp1252", "cp1250", "cp1251", "cp1253", "cp1254", "iso-8859-2", "iso-8859-15"),
    *("koi8-r", "cp850", "cp437", "mac-roman", "shift_jis", "euc-jp", "gb18030", "big5", "euc-kr"),
)
# Of what is shown of a file in each of them, on each side of the first sign that they read otherwise.
_AROUND = 40
_MARKS = (
    (codecs.BOM_UTF8, "utf-8-sig"),
    (codecs.BOM_UTF32_LE, "utf-32"),
    (codecs.BOM_UTF32_BE, "utf-32"),
    (codecs.BOM_UTF16_LE, "utf-16"),
    (codecs.BOM_UTF16_BE, "utf-16"),
)
# As much is looked at to guess.
_LOOK = 1 << 16
# With fewer signs beyond ASCII nothing can be told from them.
_FEW = 12
_LATIN = ("cp1252", "cp1250", "iso8859_2", "cp850", "mac_roman")
# Controls that no text has; a tab, line breaks and a page break are none of them.
_CONTROLS = frozenset(range(32)) - {9, 10, 12, 13, 27}


@dataclass(frozen=True)
class Decoded:
    """A text with the encoding that gave it, and whether that was a guess."""

    text: str
    encoding: str
    guessed: bool = False


def decode(data: bytes, encoding: str = "", declared: str = "") -> Decoded:
    """The text of a file, with line breaks as `\\n`.

    encoding is what somebody chose and binds; declared is what the file says of itself, which may be wrong: what is
    UTF-8 throughout is read as that. Raises BadFile where the bytes do not follow the encoding, with the line.
    """
    if encoding:
        return _strict(data, known(encoding))
    for mark, name in _MARKS:
        if data.startswith(mark):
            return _strict(data, name)
    if name := _wide(data):
        return _strict(data, name, guessed=True)
    try:
        return Decoded(_lines(data.decode("utf-8")), "utf-8")
    except UnicodeDecodeError as fault:
        # A slip in a file that is UTF-8 otherwise is a slip, not another encoding.
        if fault.end == len(data) and fault.reason == "unexpected end of data":
            # Cut off in the middle of a character.
            return Decoded(_lines(data[: fault.start].decode("utf-8")), "utf-8", guessed=True)
        if _mostly_utf8(data):
            raise _amiss(data, "utf-8", fault.start) from None
    if data.count(0, 0, _LOOK) or sum(byte in _CONTROLS for byte in data[:_LOOK]) > len(data[:_LOOK]) / 50:
        raise BadFile("This is no text: it holds bytes that no text has.")
    if declared:
        try:
            return _strict(data, known(declared))
        except BadFile:
            pass
    return _strict(data, _guess(data), guessed=True)


def known(encoding: str) -> str:
    """The codec of that name. Raises BadFile for one that there is not."""
    try:
        name = codecs.lookup(encoding).name
        "a".encode(name)
    except (LookupError, ValueError, TypeError, UnicodeError):
        raise BadFile(
            f"There is no encoding {encoding[:40]!r}; choose another, such as utf-8 or cp1252."
        ) from None
    # What mails and pages call Latin-1 or ASCII is the Windows page in practice, which holds both.
    return "cp1252" if name in ("iso8859-1", "ascii") else name


def _strict(data: bytes, name: str, *, guessed: bool = False) -> Decoded:
    try:
        text = data.decode(name)
    except UnicodeDecodeError as fault:
        if name == "cp1252":
            # Five bytes of it stand for nothing; in Latin-1 they are controls.
            return Decoded(_lines(data.decode("iso-8859-1")), "iso-8859-1", guessed)
        raise _amiss(data, name, fault.start) from None
    except UnicodeError as fault:
        raise BadFile(f"This is not {name}: {fault}.") from None
    if "\0" in text:
        raise BadFile("This is no text: it holds NUL characters.")
    return Decoded(_lines(text), name.removesuffix("-sig"), guessed)


def _lines(text: str) -> str:
    return text.removeprefix("\ufeff").replace("\r\n", "\n").replace("\r", "\n")


def _amiss(data: bytes, name: str, at: int) -> BadFile:
    line = data.count(b"\n", 0, at) + 1
    return BadFile(
        f"This is not {name.removesuffix('-sig')} throughout: byte {at} in line {line} does not follow it. Choose another encoding.",
        line=line,
    )


def _wide(data: bytes) -> str:
    """UTF-16 without a mark: every other byte of what is mostly Latin is 0."""
    look = data[:_LOOK]
    if len(look) < 8:
        return ""
    even, odd = look[::2].count(0), look[1::2].count(0)
    half = len(look) / 2
    if odd > 0.6 * half and even < 0.05 * half:
        return "utf-16-le"
    return "utf-16-be" if even > 0.6 * half and odd < 0.05 * half else ""


def _mostly_utf8(data: bytes) -> bool:
    """Do ten times as many signs beyond ASCII follow UTF-8 as do not?"""
    text = data[:_LOOK].decode("utf-8", errors="replace")
    amiss = text.count("\ufffd")
    right = sum(ord(sign) > 127 for sign in text) - amiss
    return right >= 10 * amiss


def _guess(data: bytes) -> str:
    """The likeliest page of codes.

    Where most letters are ASCII, few signs are left to tell pages apart, and the commonest is taken unless many speak for
    the Central European one.
    """
    look = data[:_LOOK]
    beyond = sum(byte > 127 for byte in look)
    latin = beyond < 0.25 * max(1, sum(chr(byte).isalpha() for byte in look))
    if latin and beyond < _FEW:
        return "cp1252"
    best = charset_normalizer.from_bytes(look, cp_isolation=list(_LATIN) if latin else None).best()
    return "cp1252" if best is None else known(best.encoding)


def readings(data: bytes) -> tuple[tuple[str, str], ...]:
    """How a part of a file reads in each encoding that it can be in: around the first byte beyond ASCII."""
    at = next((n for n, byte in enumerate(data[:_LOOK]) if byte > 127), None)
    if at is None:
        return ()
    start = max(data.rfind(b"\n", 0, at) + 1, at - _AROUND, 0)
    end = data.find(b"\n", at)
    part = data[start : min(at + _AROUND, end if end >= 0 else len(data))]
    told: dict[str, str] = {}
    for name in ENCODINGS:
        # A part can end within a character.
        for cut in range(4):
            try:
                words = part[: len(part) - cut].decode(name)
            except (UnicodeDecodeError, ValueError):
                continue
            if words.isprintable():
                told[name] = words
            break
    return tuple(told.items())
