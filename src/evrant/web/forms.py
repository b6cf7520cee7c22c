"""Fields of models as people see and type them: labels, choices, units, messages.

A form is made from a model class alone; nothing is listed twice. Text is read into SI figures here
and shown from them here; the core never sees text.
"""

import math
from collections.abc import Mapping
from dataclasses import dataclass, replace
from decimal import Decimal, InvalidOperation
from fractions import Fraction
from functools import cache
from typing import Any, Literal, get_args, get_origin

from evrant.core.base.annotations import flattened
from evrant.core.base.memo import Memo
from evrant.core.base.model import Model, Note
from evrant.core.base.quantity import ORIGINS, Figure, Quantity
from evrant.core.base.tables.bodies import BODIES, CHILDREN
from evrant.core.base.tables.countries import MAINS
from evrant.core.base.units import KG_PER_POUND, CannotRead, Units, read, read_length, show_number
from evrant.core.studio.shots import Subject
from evrant.core.studio.studio import Studio
from evrant.web.hashed import hashed_once

Widget = Literal["figure", "text", "area", "choice", "check", "colour"]
HIDDEN = frozenset({"id", "library", "format", "version", "as_set"})
IN_ROOM = ("walls", "boxes", "zones", "sockets", "circuits")
OF_STUDIO = ("shops", "sets", "sessions")
"""Lists a choice is made from, besides the gear."""


@dataclass(frozen=True)
class Spec:
    """What a field of a model is, from its annotation."""

    name: str
    title: str
    widget: Widget
    show: str
    options: tuple[str, ...] = ()
    source: str = ""
    optional: bool = True
    quantity: Quantity | None = None
    whole: bool = False
    money: bool = False


@dataclass(frozen=True)
class Shown:
    """A field ready to be drawn, with what was typed and what is wrong with it."""

    id: str
    target: str
    spec: Spec
    value: str
    options: tuple[tuple[str, str], ...] = ()
    pm: str = ""
    origin: str = ""
    usual_pm: str = ""
    error: str = ""
    hints: tuple[tuple[str, str], ...] = ()

    @property
    def title(self) -> str:
        return self.spec.title

    def __hash__(self) -> int:
        return hashed_once(self)


_FIELDS: Memo[tuple[Shown, ...]] = Memo(8_000_000, lambda fields: 200 + 900 * len(fields))


@cache
def specs(cls: type[Model]) -> tuple[Spec, ...]:
    """Specs of a model's plain fields, in order; lists and nested models have pages of their own."""
    found = []
    for name, info in cls.model_fields.items():
        if name in HIDDEN:
            continue
        spec = _spec(name, info)
        if spec is not None:
            found.append(spec)
    return tuple(found)


def _spec(name: str, info: Any) -> Spec | None:
    kinds, metadata = flattened(info.annotation)
    metadata = [*metadata, *info.metadata]
    extra = info.json_schema_extra if isinstance(info.json_schema_extra, dict) else {}
    optional = type(None) in kinds
    kinds = [kind for kind in kinds if kind is not type(None)]
    plain = Spec(
        name,
        info.title or name.replace("_", " ").capitalize(),
        "text",
        str(extra.get("show", "")),
        optional=optional,
        source=str(extra.get("gear") or extra.get("list") or ""),
    )
    quantity = next((m for m in metadata if isinstance(m, Quantity)), None)
    if quantity is not None:
        return replace(plain, widget="figure", show=quantity.show, quantity=quantity)
    literals = [kind for kind in kinds if get_origin(kind) is Literal]
    if literals and len(get_args(literals[0])) < 2:
        return None
    if literals:
        return replace(plain, widget="choice", options=tuple(str(v) for v in get_args(literals[0])))
    kind = kinds[0]
    if kind is bool:
        return replace(plain, widget="check")
    if plain.source:
        return replace(plain, widget="choice")
    if kind is int:
        return replace(plain, whole=True)
    if kind is Decimal:
        return replace(plain, money=True)
    if kind is float:
        return plain
    if kind is str:
        if name == "colour":
            return replace(plain, widget="colour")
        return replace(
            plain,
            widget="area" if info.annotation is Note or name in ("notes", "purpose") else "text",
            show="day" if plain.show == "day" else "words",
        )
    return None


def field_id(target: str, name: str) -> str:
    return f"f-{target.replace('/', '-')}-{name}"


def fields(
    studio: Studio, target: str, model: Model, *, only: tuple[str, ...] = (), leave: tuple[str, ...] = ()
) -> list[Shown]:
    """Every plain field of a model as it is shown; the same objects while nothing they show changes."""
    asked = [spec for spec in specs(type(model)) if (not only or spec.name in only) and spec.name not in leave]
    lists = dict.fromkeys(_list_of(spec.source) for spec in asked if spec.source)
    parts = (model, studio.brief, *(getattr(studio, name) for name in lists))
    name = f"{target} {' '.join(only)} but {' '.join(leave)}"
    return list(_FIELDS.get(name, parts, lambda: tuple(shown(studio, target, model, spec) for spec in asked)))


def _list_of(source: str) -> str:
    """The part of a studio a choice is made from."""
    if source in IN_ROOM:
        return "room"
    return source if source in OF_STUDIO else "gear"


def shown(studio: Studio, target: str, model: Model, spec: Spec) -> Shown:
    value = getattr(model, spec.name)
    units: Units = studio.brief.units
    base = Shown(field_id(target, spec.name), target, spec, "", _options(studio, spec, value))
    if isinstance(model, Subject) and model.kind == "person" and spec.name == "height":
        base = replace(base, hints=_statures(units))
    if isinstance(value, Figure):
        pm = "" if value.stated_pm is None else show(value.stated_pm, spec.show, units)
        return replace(
            base,
            value=show(value.value, spec.show, units),
            pm=pm,
            origin=value.stated_origin or "",
            usual_pm=show(_two_digits(value.pm), spec.show, units) if value.pm else "",
        )
    if value is None:
        return base
    if isinstance(value, bool):
        return replace(base, value="yes" if value else "")
    if isinstance(value, float):
        return replace(base, value=show(value, spec.show, units))
    return replace(base, value=str(value))


def _statures(units: Units) -> tuple[tuple[str, str], ...]:
    """Usual heights of people, to choose from while typing."""
    known = [(body.name, body.stature) for body in BODIES] + list(CHILDREN)
    return tuple((show(height, "length", units), name) for name, height in known)


def _two_digits(value: float) -> float:
    return float(f"{value:.2g}")


def _options(studio: Studio, spec: Spec, value: Any) -> tuple[tuple[str, str], ...]:
    if spec.name == "country":
        return tuple((code, MAINS[code].name) for code in MAINS)
    if spec.source == "walls":
        return tuple((wall.id, wall.name) for wall in studio.room.walls)
    if spec.source == "boxes":
        return tuple((box.id, box.name) for box in studio.room.boxes if box.moves != "stays")
    if spec.source == "zones":
        return tuple((zone.id, zone.name) for zone in studio.room.zones)
    if spec.source == "sockets":
        return tuple((s.id, s.name) for s in studio.room.sockets)
    if spec.source in OF_STUDIO:
        return tuple((one.id, one.name) for one in getattr(studio, spec.source))
    if spec.source == "any gear":
        return tuple((item.id, item.name) for item in studio.gear)
    if spec.source == "circuits":
        return tuple((c.id, c.name) for c in studio.room.circuits)
    if spec.source:
        kinds = spec.source.split()
        known = [(item.id, item.name) for item in studio.gear if item.kind in kinds]
        if value and value not in [key for key, _ in known]:
            known.append((str(value), f"{value} (no longer in the kit)"))
        return tuple(known)
    return tuple((option, option) for option in spec.options)


def show(value: float, how: str, units: Units) -> str:
    """A figure as text that reads back to the same figure."""
    match how:
        case "length":
            return _exact_length(value, units)
        case "mm":
            return f"{show_number(value * 1000, 2)} mm"
        case "kg":
            return (
                f"{show_number(value / KG_PER_POUND, 2)} lb" if units == "imperial" else f"{show_number(value, 3)} kg"
            )
        case "f":
            return f"f/{show_number(value, 2)}"
        case "time":
            return (
                f"1/{show_number(1 / value, 1 if value < 0.1 else 2)} s"
                if 0 < value < 0.4
                else f"{show_number(value, 3)} s"
            )
        case "s" if 0 < value < 0.1:
            return f"1/{show_number(1 / value, 0)} s"
        case "fraction":
            return "1" if value >= 0.9995 else f"1/{show_number(1 / value, 1)}"
        case "stop":
            return f"{show_number(value, 2)} stops"
        case "":
            return show_number(value, 4)
    return f"{show_number(value, 3)} {how}"


def _exact_length(metres: float, units: Units) -> str:
    if units == "metric":
        return f"{show_number(metres, 4)} m" if abs(metres) >= 1 else f"{show_number(metres * 100, 2)} cm"
    sixteenths = round(abs(metres) / 0.0254 * 16)
    inches, rest = divmod(sixteenths, 16)
    feet, inches = divmod(inches, 12)
    part = f" {Fraction(rest, 16)}" if rest else ""
    sign = "-" if metres < 0 and sixteenths else ""
    if not feet:
        return f'{sign}{f"{inches}{part}" if inches or not rest else part.strip()}"'
    return f"{sign}{feet}' {inches}{part}\""


def parse(text: str, spec: Spec, units: Units) -> Any:
    """Typed text as a JSON value for an edit. Raises CannotRead with words for the person."""
    text = text.strip()
    if spec.widget == "check":
        return bool(text)
    if not text:
        if not spec.optional:
            raise CannotRead("This cannot be left empty.")
        return "" if spec.show == "words" and spec.name in ("notes", "purpose") else None
    if spec.widget in ("choice", "colour", "area") or spec.show in ("words", "day"):
        return text
    if spec.money:
        return _money(text)
    number = _number(text, spec.show, units)
    _doubt(text, number, spec, units)
    if spec.whole:
        if number != int(number):
            raise CannotRead("Give a whole number.")
        return int(number)
    return number


def _doubt(text: str, number: float, spec: Spec, units: Units) -> None:
    """A lone number far out of a length's range that would be right in a smaller unit: say what it means here."""
    kind = spec.quantity
    if spec.show != "length" or kind is None or kind.low <= number <= kind.high or not text.replace(".", "").isdigit():
        return
    unit, smaller, factor = ("m", "cm", 100.0) if units == "metric" else ("feet", "inches", 12.0)
    if kind.low <= number / factor <= kind.high:
        raise CannotRead(f"A bare number is in {unit} here. Write “{text} {smaller}” if that is meant.")


def _money(text: str) -> str:
    return str(read_money(text))


def read_money(text: str) -> Decimal:
    """A typed sum of money. Raises CannotRead."""
    try:
        amount = Decimal(text.strip().replace(" ", "").replace(",", ".").strip("€£$"))
    except InvalidOperation as error:
        raise CannotRead("Give an amount such as 49 or 49.90.") from error
    if not amount.is_finite() or amount < 0:
        raise CannotRead("Give an amount such as 49 or 49.90.")
    return amount


def _number(text: str, how: str, units: Units) -> float:
    match how:
        case "length":
            return read_length(text, units)
        case "mm":
            return read(text, "meter", "mm", "a length such as 50 mm")
        case "kg":
            return read(text, "kilogram", "kg" if units == "metric" else "pound", "a mass such as 1.4 kg or 3 lb")
        case "f":
            return _plain(text.lower().removeprefix("f/").removeprefix("f"), "an f-number such as f/8")
        case "time":
            return _plain(text.removesuffix("s"), "a time such as 1/160 or 0.5")
        case "fraction":
            return _plain(text, "a share such as 1/16 or 0.25")
    return _plain(text.removesuffix("stops").removesuffix(how), "a number")


def _plain(text: str, hint: str) -> float:
    top, stroke, bottom = text.replace(",", ".").partition("/")
    try:
        number = float(top) / float(bottom) if stroke else float(top)
    except (ValueError, ZeroDivisionError, OverflowError) as error:
        raise CannotRead(f"“{text.strip()}” cannot be read. Give {hint}.") from error
    if not math.isfinite(number):
        raise CannotRead(f"“{text.strip()}” cannot be read. Give {hint}.")
    return number


@dataclass(frozen=True)
class Typed:
    """A form as read: values for SetFields, and messages by field."""

    values: dict[str, Any]
    errors: dict[str, str]


def read_form(model: Model, form: Mapping[str, str], units: Units) -> Typed:
    """Values of the model's fields among the form's, `name`, `name.pm` and `name.origin`."""
    values: dict[str, Any] = {}
    errors: dict[str, str] = {}
    for spec in specs(type(model)):
        if spec.name not in form and f"{spec.name}.pm" not in form:
            continue
        try:
            values[spec.name] = _one(spec, form, units)
        except CannotRead as error:
            errors[spec.name] = str(error)
    return Typed(values, errors)


def _one(spec: Spec, form: Mapping[str, str], units: Units) -> Any:
    value = parse(form.get(spec.name, ""), spec, units)
    pm, origin = form.get(f"{spec.name}.pm", "").strip(), form.get(f"{spec.name}.origin", "")
    if value is None or spec.widget != "figure" or not (pm or origin):
        return value
    figure: dict[str, Any] = {"value": value}
    if pm:
        figure["pm"] = parse(pm, spec, units)
    if origin in ORIGINS:
        figure["origin"] = origin
    return figure


def with_typed(field: Shown, form: Mapping[str, str], error: str) -> Shown:
    """The field as the person left it, with the message beside it."""
    name = field.spec.name
    return replace(
        field,
        value=form.get(name, field.value),
        pm=form.get(f"{name}.pm", field.pm),
        origin=form.get(f"{name}.origin", field.origin),
        error=error,
    )
