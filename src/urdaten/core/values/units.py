"""Units of measure by their UCUM codes: what they measure, how large they are, and the signs that stand for them."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from fractions import Fraction

from urdaten.errors import BadInput


@dataclass(frozen=True)
class Unit:
    """A unit: value in its dimension's own unit = figure × factor + shift."""

    code: str
    dimension: str
    factor: Fraction
    shift: Fraction = Fraction(0)
    # What people write for it; capitals and small letters count where signs would be confused.
    signs: tuple[str, ...] = ()


def _unit(code: str, dimension: str, factor: str, signs: str = "", shift: str = "0") -> Unit:
    return Unit(
        code, dimension, Fraction(factor), Fraction(shift), tuple(dict.fromkeys((code, *signs.split())))
    )


# Factors by definition: international yard and pound (1959), imperial gallon (1985), NIST SP 811 (2008), appendix B.
_UNITS = (
    _unit("t", "mass", "1000", "T te mt MT"),
    _unit("kg", "mass", "1", "KG Kg kgs"),
    _unit("g", "mass", "1/1000", "gr"),
    _unit("mg", "mass", "1/1000000"),
    _unit("kt", "mass", "1000000"),
    _unit("[lb_av]", "mass", "0.45359237", "lb lbs"),
    _unit("[oz_av]", "mass", "0.028349523125", "oz"),
    _unit("[stone_av]", "mass", "6.35029318", "st"),
    _unit("[lton_av]", "mass", "1016.0469088"),
    _unit("[ston_av]", "mass", "907.18474"),
    _unit("[lcwt_av]", "mass", "50.80234544", "cwt"),
    _unit("m", "length", "1", "M"),
    _unit("cm", "length", "1/100", "CM"),
    _unit("mm", "length", "1/1000", "MM"),
    _unit("km", "length", "1000", "KM"),
    _unit("um", "length", "1/1000000", "µm μm"),
    _unit("[in_i]", "length", "0.0254", 'in ″ "'),
    _unit("[ft_i]", "length", "0.3048", "ft FT ′ '"),
    _unit("[yd_i]", "length", "0.9144", "yd yds"),
    _unit("[mi_i]", "length", "1609.344", "mi"),
    _unit("[nmi_i]", "length", "1852", "nm NM nmi"),
    _unit("[fth_i]", "length", "1.8288", "fm"),
    _unit("m2", "area", "1", "m² sqm"),
    _unit("km2", "area", "1000000", "km² sqkm"),
    _unit("cm2", "area", "1/10000", "cm²"),
    _unit("har", "area", "10000", "ha"),
    _unit("[sft_i]", "area", "0.09290304", "sqft"),
    _unit("m3", "volume", "1", "m³ cbm CBM cum"),
    _unit("cm3", "volume", "1/1000000", "cm³ ccm cc"),
    _unit("L", "volume", "1/1000", "l ltr ltrs"),
    _unit("mL", "volume", "1/1000000", "ml"),
    _unit("hL", "volume", "1/10", "hl"),
    _unit("[gal_br]", "volume", "0.00454609", "gal"),
    _unit("[gal_us]", "volume", "0.003785411784"),
    _unit("[pt_br]", "volume", "0.00056826125", "pt"),
    _unit("[bbl_us]", "volume", "0.158987294928", "bbl bbls"),
    _unit("[cft_i]", "volume", "0.028316846592", "cuft"),
    _unit("s", "time", "1", "sec secs"),
    _unit("min", "time", "60", "mins"),
    _unit("h", "time", "3600", "hr hrs"),
    _unit("d", "time", "86400"),
    _unit("wk", "time", "604800", "wks"),
    _unit("mo", "time", "2629800"),
    _unit("a", "time", "31557600", "yr yrs"),
    _unit("m/s", "speed", "1"),
    _unit("km/h", "speed", "5/18", "kmh kph"),
    _unit("[kn_i]", "speed", "463/900", "kn kts kt."),
    _unit("[mi_i]/h", "speed", "0.44704", "mph"),
    _unit("K", "temperature", "1"),
    _unit("Cel", "temperature", "1", "°C C ℃", "273.15"),
    _unit("[degF]", "temperature", "5/9", "°F F", "45967/180"),
    _unit("deg", "angle", "1", "°"),
    _unit("Pa", "pressure", "1"),
    _unit("hPa", "pressure", "100"),
    _unit("mbar", "pressure", "100", "mb"),
    _unit("kPa", "pressure", "1000"),
    _unit("bar", "pressure", "100000"),
    _unit("W", "power", "1"),
    _unit("kW", "power", "1000", "KW"),
    _unit("MW", "power", "1000000"),
    _unit("[HP]", "power", "745.69987158227022", "hp HP bhp"),
    _unit("J", "energy", "1"),
    _unit("kJ", "energy", "1000"),
    _unit("kW.h", "energy", "3600000", "kWh"),
    _unit("V", "voltage", "1"),
    _unit("kV", "voltage", "1000"),
    _unit("A", "current", "1"),
    _unit("Hz", "frequency", "1"),
    _unit("kHz", "frequency", "1000"),
    _unit("MHz", "frequency", "1000000"),
    _unit("/min", "frequency", "1/60", "rpm"),
    _unit("N", "force", "1"),
    _unit("kN", "force", "1000"),
    _unit("%", "share", "1/100", "pct"),
    _unit("[ppth]", "share", "1/1000", "‰"),
    _unit("t/h", "mass per time", "5/18", "tph"),
    _unit("L/h", "volume per time", "1/3600000"),
    _unit("t/d", "mass per time", "5/432"),
)
UNITS: Mapping[str, Unit] = {unit.code: unit for unit in _UNITS}
# The first unit that a sign stands for; for what is written in other letters, those that hold for any.
_BY_SIGN = {sign: unit.code for unit in reversed(_UNITS) for sign in unit.signs}
_BY_FOLDED = {sign.casefold(): unit.code for unit in reversed(_UNITS) for sign in unit.signs if len(sign) > 1}


def unit_of_sign(sign: str) -> str | None:
    """The UCUM code of a unit's sign, as it is written or else in any letters; None for no unit's."""
    return _BY_SIGN.get(sign) or _BY_FOLDED.get(sign.casefold())


def convert(figure: Fraction, unit: str, into: str) -> Fraction:
    """A figure in another unit of the same dimension. Raises BadInput where there is no way from one to the other."""
    source, target = UNITS.get(unit), UNITS.get(into)
    if unit == into:
        return figure
    if source is None or target is None:
        unknown = unit if source is None else into
        raise BadInput(f"There is no unit “{unknown}” that could be converted.", field="unit")
    if source.dimension != target.dimension:
        raise BadInput(
            f"“{unit}” is of {source.dimension} and “{into}” of {target.dimension}; choose a unit of {source.dimension}.",
            field="unit",
        )
    return (figure * source.factor + source.shift - target.shift) / target.factor
