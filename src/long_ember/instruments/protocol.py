"""The line that an instrument sends: `calliper 12.34 mm #5E`, or `calliper - #99` when it is only there. See docs/instruments.md."""

from __future__ import annotations

import math
import re

from long_ember.frozen import NamedTuple

__all__ = ["INSTRUMENTS", "Heard", "Noise", "spoken_line", "understood"]

# Units by instrument, with what one is in mm, g or °C: factor and offset.
_LENGTH = {"mm": (1.0, 0.0), "in": (25.4, 0.0)}
_MASS = {"g": (1.0, 0.0), "kg": (1000.0, 0.0), "oz": (28.349523125, 0.0), "lb": (453.59237, 0.0)}
_HEAT = {"C": (1.0, 0.0), "F": (5 / 9, -32 * 5 / 9)}
_PRESS = {"down": (1.0, 0.0)}
# key: title, units, least and greatest value that it can have (mm, g, °C).
INSTRUMENTS: dict[str, tuple[str, dict[str, tuple[float, float]], float, float]] = {
    "calliper": ("Calliper", _LENGTH, -0.1, 2000.0),
    "scale": ("Scale", _MASS, -5000.0, 500_000.0),
    "pyrometer": ("Pyrometer", _HEAT, -50.0, 1700.0),
    "pedal": ("Foot pedal", _PRESS, 0.0, 1.0),
    "oven": ("Oven thermometer", _HEAT, -50.0, 1400.0),
}
_LINE = re.compile(r"(?P<body>(?P<kind>[a-z]+) (?:(?P<value>-?\d{1,7}(?:\.\d{1,4})?) (?P<unit>[A-Za-z]+)|-)) #(?P<sum>[0-9A-F]{2})")


class Heard(NamedTuple):
    """What an instrument said.

    Args:
        kind: key of `INSTRUMENTS`.
        value: mm, g or °C; None where it only says that it is there.
    """

    kind: str
    value: float | None


class Noise(ValueError):
    """A line that cannot be what an instrument said; its words say why."""


def _sum(body: str) -> str:
    return f"{sum(body.encode('ascii')) % 256:02X}"


def spoken_line(kind: str, value: float | None, unit: str = "") -> str:
    """The line of an instrument, without its end.

    Args:
        kind: key of `INSTRUMENTS`.
        value: in `unit`; None for a sign of life.
        unit: that the instrument shows.

    >>> spoken_line("calliper", 12.34, "mm")
    'calliper 12.34 mm #5E'
    """
    body = f"{kind} -" if value is None else f"{kind} {value:.4f}".rstrip("0").rstrip(".") + f" {unit}"
    return f"{body} #{_sum(body)}"


def understood(line: str) -> Heard:
    """What a line says, in mm, g or °C.

    Raises:
        Noise: it is garbled, of no instrument, in no unit of it, or beyond what it can measure.
    """
    found = _LINE.fullmatch(line.strip())
    if found is None:
        raise Noise("a garbled line")
    if _sum(found["body"]) != found["sum"]:
        raise Noise("a line whose sum is wrong")
    if found["kind"] not in INSTRUMENTS:
        raise Noise(f"a line of an instrument that is not known: {found['kind']}")
    title, units, low, high = INSTRUMENTS[found["kind"]]
    if found["value"] is None:
        return Heard(found["kind"], None)
    if found["unit"] not in units:
        raise Noise(f"{title}: {found['unit']} is no unit of it")
    factor, offset = units[found["unit"]]
    value = float(found["value"]) * factor + offset
    if not math.isfinite(value) or not low <= value <= high:
        raise Noise(f"{title}: {found['value']} {found['unit']} is beyond what it can measure")
    return Heard(found["kind"], value)
