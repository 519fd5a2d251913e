"""What a language brings to the reading of values: its words for numbers, days and times, and how it writes figures."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from decimal import Decimal

_D = Decimal
# The part of the day that begins in the evening and ends in the morning.
NIGHT = 24


def _numbered(words: str, first: int = 0, step: int = 1) -> dict[str, Decimal]:
    """Names by rank; those with a bar between them mean the same."""
    return {name: _D(first + k * step) for k, names in enumerate(words.split()) for name in names.split("|")}


def _ranks(words: str, first: int = 1) -> dict[str, int]:
    return {name: int(value) for name, value in _numbered(words, first).items()}


@dataclass(frozen=True, kw_only=True, eq=False)
class ValueWords:
    """Words of one language, all folded. Every member may be empty: figures are read all the same."""

    code: str
    decimal: str = "."
    groups: str = ","
    # In 3/4/2026 the day stands before the month.
    day_first: bool = True
    # Numbers below a hundred, and tens that others are added to.
    units: Mapping[str, Decimal] = field(default_factory=dict)
    tens: Mapping[str, Decimal] = field(default_factory=dict)
    # What a number before it is multiplied by; without one it stands for itself.
    scales: Mapping[str, Decimal] = field(default_factory=dict)
    fractions: Mapping[str, Decimal] = field(default_factory=dict)
    ordinals: Mapping[str, int] = field(default_factory=dict)
    # A number of their own: "a couple".
    fixed: Mapping[str, Decimal] = field(default_factory=dict)
    joins: frozenset[str] = frozenset()
    articles: frozenset[str] = frozenset()
    minus: frozenset[str] = frozenset()
    # May numbers be written as one word, the ones before the tens?
    compounds: bool = False
    # In front of a number or a day, or behind it.
    about: frozenset[str] = frozenset()
    about_after: frozenset[str] = frozenset()
    # Bounds: whether the number itself is within.
    above: Mapping[str, bool] = field(default_factory=dict)
    below: Mapping[str, bool] = field(default_factory=dict)
    ranges: frozenset[str] = frozenset()
    range_openers: frozenset[str] = frozenset()
    # Names of units beside those that everybody writes, by UCUM code; of currencies by ISO 4217 code.
    unit_names: Mapping[str, str] = field(default_factory=dict)
    currency_names: Mapping[str, str] = field(default_factory=dict)
    months: Mapping[str, int] = field(default_factory=dict)
    # Monday is 0.
    weekdays: Mapping[str, int] = field(default_factory=dict)
    # Days from the day of the text.
    days: Mapping[str, int] = field(default_factory=dict)
    # By EDTF's numbers: 21 is spring.
    seasons: Mapping[str, int] = field(default_factory=dict)
    # A feast on a day of a month, or so many days from Easter Sunday.
    feasts: Mapping[str, tuple[int, int] | int] = field(default_factory=dict)
    next: frozenset[str] = frozenset()
    last: frozenset[str] = frozenset()
    this: frozenset[str] = frozenset()
    ago: frozenset[str] = frozenset()
    ahead: frozenset[str] = frozenset()
    later: frozenset[str] = frozenset()
    earlier: frozenset[str] = frozenset()
    since: frozenset[str] = frozenset()
    until: frozenset[str] = frozenset()
    early: frozenset[str] = frozenset()
    end: frozenset[str] = frozenset()
    # Words of the sentence that put its days ahead of the text, or behind it.
    coming: frozenset[str] = frozenset()
    gone: frozenset[str] = frozenset()
    # Words within a date that say nothing.
    fillers: frozenset[str] = frozenset()
    # Spans of days and months: (days, months) each.
    spans: Mapping[str, tuple[int, int]] = field(default_factory=dict)
    # Minutes that a clock word stands for, and words of its face.
    clock: Mapping[str, int] = field(default_factory=dict)
    past: frozenset[str] = frozenset()
    to: frozenset[str] = frozenset()
    half_past: bool = True
    quarter: frozenset[str] = frozenset()
    half: frozenset[str] = frozenset()
    minutes: frozenset[str] = frozenset()
    o_clock: frozenset[str] = frozenset()
    # Hours that are added below twelve; "in the morning" is 0.
    parts: Mapping[str, int] = field(default_factory=dict)
    # Comparisons with another value.
    times: Mapping[str, Decimal] = field(default_factory=dict)
    more: frozenset[str] = frozenset()
    less: frozenset[str] = frozenset()
    same: frozenset[str] = frozenset()
    that: frozenset[str] = frozenset()
    plural: tuple[tuple[str, str], ...] = ()


def _words(text: str) -> frozenset[str]:
    return frozenset(text.split())


def _phrases(text: str) -> frozenset[str]:
    return frozenset(part.strip() for part in text.split(","))


_MONTHS = "january|jan february|feb march|mar april|apr may june|jun july|jul august|aug september|sept|sep october|oct november|nov december|dec"
_WEEKDAYS = "monday|mon tuesday|tue|tues wednesday|wed|weds thursday|thu|thur|thurs friday|fri saturday|sat sunday|sun"

ENGLISH = ValueWords(
    code="en",
    units=_numbered(
        "zero|nought|nil|none one two three four five six seven eight nine ten eleven twelve thirteen fourteen fifteen sixteen "
        "seventeen eighteen nineteen"
    ),
    tens=_numbered("twenty thirty forty|fourty fifty sixty seventy eighty ninety", 20, 10),
    scales={
        "hundred": _D(100),
        "thousand": _D(1000),
        "million": _D(10**6),
        "millions": _D(10**6),
        "billion": _D(10**9),
        "dozen": _D(12),
        "dozens": _D(12),
        "score": _D(20),
        "gross": _D(144),
        "hundreds": _D(100),
        "thousands": _D(1000),
    },
    fractions={
        "half": _D(1) / 2,
        "halves": _D(1) / 2,
        "third": _D(1) / 3,
        "thirds": _D(1) / 3,
        "quarter": _D(1) / 4,
        "quarters": _D(1) / 4,
        "fifth": _D(1) / 5,
        "fifths": _D(1) / 5,
        "tenth": _D(1) / 10,
        "tenths": _D(1) / 10,
        "eighth": _D(1) / 8,
        "eighths": _D(1) / 8,
    },
    ordinals=_ranks(
        "first second third fourth fifth sixth seventh eighth ninth tenth eleventh twelfth thirteenth fourteenth fifteenth "
        "sixteenth seventeenth eighteenth nineteenth twentieth"
    )
    | {"thirtieth": 30}
    | {
        f"{ten} {one}": base + k
        for ten, base in (("twenty", 20), ("thirty", 30))
        for k, one in enumerate("first second third fourth fifth sixth seventh eighth ninth".split(), start=1)
    },
    fixed={"couple": _D(2), "pair": _D(2)},
    joins=_words("and"),
    articles=_words("a an the"),
    minus=_words("minus"),
    about=_words(
        "about abt around some roughly approximately approx approx. nearly almost circa ca ca. c. perhaps maybe say"
    ),
    about_after=_phrases("or so, odd, or thereabouts, thereabouts, approx"),
    above={
        "more than": False,
        "over": False,
        "above": False,
        "exceeding": False,
        "at least": True,
        "not less than": True,
        "no less than": True,
    },
    below={
        "less than": False,
        "under": False,
        "below": False,
        "fewer than": False,
        "at most": True,
        "up to": True,
        "not more than": True,
        "no more than": True,
    },
    ranges=_words("to or and till until through"),
    range_openers=_words("between from"),
    unit_names={
        "tonne": "t",
        "tonnes": "t",
        "ton": "t",
        "tons": "t",
        "metric ton": "t",
        "metric tons": "t",
        "long tons": "[lton_av]",
        "long ton": "[lton_av]",
        "short tons": "[ston_av]",
        "short ton": "[ston_av]",
        "kilo": "kg",
        "kilos": "kg",
        "kilogram": "kg",
        "kilograms": "kg",
        "kilogramme": "kg",
        "kilogrammes": "kg",
        "gram": "g",
        "grams": "g",
        "gramme": "g",
        "grammes": "g",
        "milligrams": "mg",
        "milligram": "mg",
        "pound": "[lb_av]",
        "pounds": "[lb_av]",
        "ounce": "[oz_av]",
        "ounces": "[oz_av]",
        "stone": "[stone_av]",
        "metre": "m",
        "metres": "m",
        "meter": "m",
        "meters": "m",
        "centimetre": "cm",
        "centimetres": "cm",
        "centimeters": "cm",
        "millimetre": "mm",
        "millimetres": "mm",
        "millimeters": "mm",
        "kilometre": "km",
        "kilometres": "km",
        "kilometers": "km",
        "foot": "[ft_i]",
        "feet": "[ft_i]",
        "inch": "[in_i]",
        "inches": "[in_i]",
        "yard": "[yd_i]",
        "yards": "[yd_i]",
        "mile": "[mi_i]",
        "miles": "[mi_i]",
        "nautical mile": "[nmi_i]",
        "nautical miles": "[nmi_i]",
        "fathom": "[fth_i]",
        "fathoms": "[fth_i]",
        "knot": "[kn_i]",
        "knots": "[kn_i]",
        "square metres": "m2",
        "square metre": "m2",
        "sq m": "m2",
        "square feet": "[sft_i]",
        "hectare": "har",
        "hectares": "har",
        "cubic metre": "m3",
        "cubic metres": "m3",
        "cubic meters": "m3",
        "cubic feet": "[cft_i]",
        "litre": "L",
        "litres": "L",
        "liter": "L",
        "liters": "L",
        "millilitres": "mL",
        "gallon": "[gal_br]",
        "gallons": "[gal_br]",
        "pint": "[pt_br]",
        "pints": "[pt_br]",
        "second": "s",
        "seconds": "s",
        "minute": "min",
        "minutes": "min",
        "hour": "h",
        "hours": "h",
        "day": "d",
        "days": "d",
        "week": "wk",
        "weeks": "wk",
        "month": "mo",
        "months": "mo",
        "year": "a",
        "years": "a",
        "degree": "deg",
        "degrees": "deg",
        "degrees celsius": "Cel",
        "degrees centigrade": "Cel",
        "degrees fahrenheit": "[degF]",
        "percent": "%",
        "per cent": "%",
        "horsepower": "[HP]",
        "kilowatts": "kW",
        "kilowatt": "kW",
        "megawatts": "MW",
        "watts": "W",
        "volts": "V",
        "amps": "A",
        "bars": "bar",
        "hectopascal": "hPa",
        "millibars": "mbar",
        "kilometres per hour": "km/h",
        "tonnes per hour": "t/h",
    },
    currency_names={
        "pound": "GBP",
        "pounds": "GBP",
        "pounds sterling": "GBP",
        "quid": "GBP",
        "dollar": "USD",
        "dollars": "USD",
        "us dollars": "USD",
        "euro": "EUR",
        "euros": "EUR",
        "francs": "CHF",
        "swiss francs": "CHF",
        "yen": "JPY",
        "kronor": "SEK",
        "danish kroner": "DKK",
        "norwegian kroner": "NOK",
        "rupees": "INR",
        "zloty": "PLN",
    },
    months=_ranks(_MONTHS),
    weekdays=_ranks(_WEEKDAYS, 0),
    days={
        "today": 0,
        "tonight": 0,
        "this morning": 0,
        "this afternoon": 0,
        "this evening": 0,
        "this day": 0,
        "tomorrow": 1,
        "tomorrow morning": 1,
        "tomorrow evening": 1,
        "tomorrow night": 1,
        "yesterday": -1,
        "yesterday morning": -1,
        "yesterday evening": -1,
        "last night": -1,
        "last evening": -1,
        "day after tomorrow": 2,
        "day before yesterday": -2,
    },
    seasons={"spring": 21, "summer": 22, "autumn": 23, "fall": 23, "winter": 24},
    feasts={
        "new year's day": (1, 1),
        "new year's eve": (12, 31),
        "christmas": (12, 25),
        "christmas day": (12, 25),
        "christmas eve": (12, 24),
        "boxing day": (12, 26),
        "midsummer": (6, 24),
        "midsummer day": (6, 24),
        "easter": 0,
        "easter sunday": 0,
        "easter monday": 1,
        "good friday": -2,
        "whit sunday": 49,
        "ascension day": 39,
    },
    next=_words("next coming"),
    last=_words("last past previous"),
    this=_words("this"),
    ago=_words("ago"),
    ahead=_phrases("in, from now, hence, time"),
    later=_phrases("later, after, afterwards"),
    earlier=_phrases("earlier, before, previously"),
    since=_words("since from"),
    until=_words("until till by"),
    early=_phrases("early, mid, late, the beginning of, beginning of, the middle of, middle of, start of"),
    end=_phrases("end of, the end of"),
    coming=_words(
        "due eta expected expects expect will shall until till by before next coming to leaves arrives sails comes may "
        "tomorrow from wants follows returns begins ends closed postponed delayed"
    ),
    gone=_words(
        "arrived berthed sailed since was were cleared came last left had has been entered landed made went anchored took "
        "yesterday ago completed finished began"
    ),
    fillers=_words("the of on at"),
    spans={
        "day": (1, 0),
        "days": (1, 0),
        "week": (7, 0),
        "weeks": (7, 0),
        "fortnight": (14, 0),
        "fortnights": (14, 0),
        "month": (0, 1),
        "months": (0, 1),
        "year": (0, 12),
        "years": (0, 12),
    },
    clock={"noon": 720, "midday": 720, "midnight": 1440},
    past=_words("past after"),
    to=_words("to before"),
    quarter=_words("quarter"),
    half=_words("half"),
    minutes=_words("minute minutes min mins"),
    o_clock=_phrases("o'clock, hrs, hours, hour, h"),
    parts={
        "in the morning": 0,
        "in the afternoon": 12,
        "in the evening": 12,
        "at night": NIGHT,
        "am": 0,
        "a.m.": 0,
        "a.m": 0,
        "pm": 12,
        "p.m.": 12,
        "p.m": 12,
    },
    times={
        "half": _D(1) / 2,
        "twice": _D(2),
        "double": _D(2),
        "three times": _D(3),
        "a third of": _D(1) / 3,
        "a quarter of": _D(1) / 4,
        "four times": _D(4),
        "thrice": _D(3),
    },
    more=_words(
        "more longer heavier deeper later higher larger wider taller bigger above over after extra faster"
    ),
    less=_words(
        "less fewer shorter lighter shallower earlier lower smaller narrower below under before short slower"
    ),
    same=_phrases(
        "the same, same, as much, as many, equally, the same weight, the same time, the same amount, "
        "the same again"
    ),
    that=_words("that this it those than as the of amount weight length much many depth time day quantity"),
    plural=(("ies", "y"), ("sses", "ss"), ("shes", "sh"), ("ches", "ch"), ("xes", "x"), ("s", "")),
)

_DE_UNITS = "null ein|eins|eine|einen|einem|einer zwei|zwo drei vier fünf sechs|sech sieben|sieb acht neun zehn elf zwölf"
GERMAN = ValueWords(
    code="de",
    decimal=",",
    groups=".",
    units=_numbered(_DE_UNITS)
    | {
        "dreizehn": _D(13),
        "vierzehn": _D(14),
        "fünfzehn": _D(15),
        "sechzehn": _D(16),
        "siebzehn": _D(17),
        "achtzehn": _D(18),
        "neunzehn": _D(19),
    },
    tens=_numbered("zwanzig dreißig|dreissig vierzig fünfzig sechzig siebzig achtzig neunzig", 20, 10),
    scales={
        "hundert": _D(100),
        "tausend": _D(1000),
        "million": _D(10**6),
        "millionen": _D(10**6),
        "milliarden": _D(10**9),
        "dutzend": _D(12),
    },
    fractions={"halb": _D(1) / 2, "halbes": _D(1) / 2, "drittel": _D(1) / 3, "viertel": _D(1) / 4},
    joins=_words("und"),
    articles=_words("ein eine einen einem einer der die das den dem"),
    minus=_words("minus"),
    compounds=True,
    about=_words("etwa ca ca. circa rund ungefähr fast gegen"),
    above={"mehr als": False, "über": False, "mindestens": True},
    below={"weniger als": False, "unter": False, "höchstens": True, "bis zu": True},
    ranges=_words("bis oder und"),
    range_openers=_words("zwischen von"),
    unit_names={
        "tonne": "t",
        "tonnen": "t",
        "kilo": "kg",
        "kilogramm": "kg",
        "gramm": "g",
        "pfund": "[lb_av]",
        "meter": "m",
        "metern": "m",
        "zentimeter": "cm",
        "millimeter": "mm",
        "kilometer": "km",
        "seemeilen": "[nmi_i]",
        "knoten": "[kn_i]",
        "kubikmeter": "m3",
        "quadratmeter": "m2",
        "hektar": "har",
        "liter": "L",
        "sekunden": "s",
        "minuten": "min",
        "stunde": "h",
        "stunden": "h",
        "tag": "d",
        "tage": "d",
        "tagen": "d",
        "wochen": "wk",
        "woche": "wk",
        "monate": "mo",
        "jahre": "a",
        "grad": "deg",
        "grad celsius": "Cel",
        "prozent": "%",
    },
    currency_names={"euro": "EUR", "franken": "CHF", "dollar": "USD", "pfund": "GBP"},
    months=_ranks(
        "januar|jan|jänner februar|feb märz|mär april|apr mai juni|jun juli|jul august|aug september|sept|sep "
        "oktober|okt november|nov dezember|dez"
    ),
    weekdays=_ranks(
        "montag|mo dienstag|di mittwoch|mi donnerstag|do freitag|fr samstag|sonnabend|sa sonntag|so", 0
    ),
    days={"heute": 0, "morgen": 1, "gestern": -1, "übermorgen": 2, "vorgestern": -2},
    seasons={"frühling": 21, "frühjahr": 21, "sommer": 22, "herbst": 23, "winter": 24},
    feasts={
        "neujahr": (1, 1),
        "silvester": (12, 31),
        "weihnachten": (12, 25),
        "heiligabend": (12, 24),
        "karfreitag": -2,
        "ostern": 0,
        "ostermontag": 1,
    },
    next=_words("nächsten nächste nächster nächstes kommenden"),
    last=_words("letzten letzte letzter letztes vergangenen"),
    this=_words("diesen diese dieser dieses"),
    coming=_words("erwartet wird werden bis nächsten kommt"),
    gone=_words("seit war waren kam gestern letzten angekommen"),
    ago=_words("vor"),
    ahead=_words("in"),
    since=_words("seit"),
    until=_words("bis"),
    early=_phrases("anfang, mitte, ende"),
    fillers=_words("der den dem am im um des"),
    spans={
        "tag": (1, 0),
        "tage": (1, 0),
        "tagen": (1, 0),
        "woche": (7, 0),
        "wochen": (7, 0),
        "monat": (0, 1),
        "monate": (0, 1),
        "monaten": (0, 1),
        "jahr": (0, 12),
        "jahre": (0, 12),
        "jahren": (0, 12),
    },
    clock={"mittag": 720, "mitternacht": 1440},
    past=_words("nach"),
    to=_words("vor"),
    half_past=False,
    quarter=_words("viertel"),
    half=_words("halb"),
    minutes=_words("minute minuten"),
    o_clock=_words("uhr"),
    parts={"morgens": 0, "vormittags": 0, "nachmittags": 12, "abends": 12, "nachts": NIGHT},
)

# In an unknown language a comma may stand before thousands as well as before tenths.
NEUTRAL = ValueWords(code="neutral", groups="")
_PACKS = {pack.code: pack for pack in (ENGLISH, GERMAN, NEUTRAL)}


def value_words(language: str) -> ValueWords:
    """The words of a language; those without any share one that reads figures only."""
    return _PACKS.get(language, NEUTRAL)
