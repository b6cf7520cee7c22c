"""Gear: one closed model per kind, joined in a discriminated union.

Every studio holds its own copy of an item, so the file alone gives the same ledger anywhere.
"""

from typing import Annotated, Literal

from pydantic import Field, model_validator
from pydantic_core import PydanticCustomError

from evrant.core.base.model import Model, Name, Note, Slug
from evrant.core.base.quantity import (
    Current,
    Efficiency,
    Energy,
    Flux,
    FNumber,
    Focal,
    Force,
    GearLength,
    GuideNumber,
    Illuminance,
    Kelvin,
    Level,
    LightDose,
    Load,
    Mass,
    Power,
    ReflectanceValue,
    Seconds,
    SensorSide,
    Stops,
    Thickness,
    Torque,
    Trim,
    WattHours,
)
from evrant.core.base.tables.conductors import Conductor
from evrant.core.base.tables.supports import Connector, Mount
from evrant.core.studio.brief import Currency, Day, Money

Status = Literal["owned", "planned", "considered"]
Stowed = Literal["upright", "lying", "stays in the room"]


WARES = frozenset(
    {"price", "currency", "priced", "condition", "made_from", "rent", "resale", "lasts", "phase", "shop", "library"}
    | {"packed_length", "packed_width", "packed_height", "stowed", "fragile", "notes"}
)
"""Fields of an item that say what it costs, where it is from and how it is kept, and nothing of it in use."""


class _Item(Model):
    id: Slug
    name: Name
    status: Status = Field("planned", title="Standing")
    quantity: Annotated[int, Field(ge=1, le=99)] = Field(1, title="How many")
    price: Money | None = Field(None, title="Price each")
    currency: Currency = Field("EUR", title="Currency")
    priced: Day | None = Field(None, title="Price seen on", json_schema_extra={"show": "day"})
    condition: Literal["new", "used", "borrowed", "rented", "home-made"] = Field("new", title="Condition")
    made_from: Name | None = Field(None, title="Home-made from")
    rent: Money | None = Field(None, title="Rent a day")
    resale: Money | None = Field(None, title="Sells on for")
    lasts: Annotated[float, Field(gt=0, le=100)] | None = Field(
        None, title="Lasts about (years)", json_schema_extra={"show": "years"}
    )
    phase: Annotated[int, Field(ge=1, le=20)] | None = Field(None, title="Bought in phase")
    shop: Slug | None = Field(None, title="Bought at", json_schema_extra={"list": "shops"})
    mass: Mass | None = Field(None, title="Mass")
    packed_length: GearLength | None = Field(None, title="Longest side when packed")
    packed_width: GearLength | None = Field(None, title="Packed: second side")
    packed_height: GearLength | None = Field(None, title="Packed: third side")
    stowed: Stowed | None = Field(None, title="Stowed (empty: any way)")
    fragile: bool = Field(False, title="Nothing may lie on it")
    library: Name | None = Field(None, title="Copied from the catalogue as")
    notes: Note = Field("", title="Notes")

    @property
    def at_hand(self) -> bool:
        """Owned or planned, and not only considered."""
        return self.status != "considered"

    @property
    def called(self) -> str:
        """The name as it stands inside a sentence: “light stand 2.2 m”, but “LED head”."""
        return self.name if self.name[1:2].isupper() else self.name[:1].lower() + self.name[1:]


Angles = Annotated[tuple[float, ...], Field(min_length=2, max_length=361)]


class Distribution(Model):
    """A measured spread of light, type C: candelas by vertical angle (0° along the axis) and by side.

    The table is for the whole lamp as measured; `lumens` is what it sums to. `sha256` names the file it came from.
    """

    sha256: Annotated[str, Field(pattern="^[0-9a-f]{64}$")]
    lumens: Annotated[float, Field(gt=0, le=10_000_000)]
    vertical: Angles
    horizontal: Annotated[tuple[float, ...], Field(min_length=1, max_length=361)]
    candela: tuple[tuple[Annotated[float, Field(ge=0, le=1e9)], ...], ...] = Field(max_length=361)
    width: Annotated[float, Field(ge=0, le=20)] = 0.0
    height: Annotated[float, Field(ge=0, le=20)] = 0.0

    @model_validator(mode="after")
    def _square(self) -> "Distribution":
        if len(self.candela) != len(self.horizontal) or any(len(r) != len(self.vertical) for r in self.candela):
            raise PydanticCustomError("distribution", "The table needs one row a side and one figure an angle.")
        if any(b <= a for a, b in zip(self.vertical, self.vertical[1:], strict=False)):
            raise PydanticCustomError("distribution", "The vertical angles must rise.")
        return self


class Camera(_Item):
    """A camera body."""

    kind: Literal["camera"] = "camera"
    sensor_width: SensorSide | None = Field(None, title="Sensor, long side")
    sensor_height: SensorSide | None = Field(None, title="Sensor, short side")
    body_depth: GearLength | None = Field(None, title="Depth from lens mount plane to screen")
    base_iso: Annotated[int, Field(ge=12, le=25600)] | None = Field(None, title="Lowest ISO")
    sync_shutter: Annotated[float, Field(ge=1 / 8000, le=1)] | None = Field(
        None, title="Shortest flash sync", json_schema_extra={"show": "time"}
    )
    fires: Literal["hot shoe", "own shoe only", "sync socket only", "nothing"] | None = Field(
        None, title="Fires flash by"
    )
    screws: Literal["1/4 inch thread", "nothing, it is clamped"] | None = Field(None, title="Screws onto")


class Lens(_Item):
    """A lens; a zoom has two focal lengths."""

    kind: Literal["lens"] = "lens"
    focal: Focal | None = Field(None, title="Focal length (shortest)")
    focal_long: Focal | None = Field(None, title="Longest focal length of a zoom")
    widest: FNumber | None = Field(None, title="Widest aperture")
    narrowest: FNumber | None = Field(None, title="Smallest aperture (as the widest: it is fixed)")
    nearest: GearLength | None = Field(None, title="Nearest focus, from the sensor")
    covers: SensorSide | None = Field(None, title="Covers a sensor of (diagonal)")


class Backdrop(_Item):
    """Paper, fabric or panel behind the subject."""

    kind: Literal["backdrop"] = "backdrop"
    material: Literal["paper", "fabric", "vinyl", "panel", "board"] | None = Field(None, title="Material")
    width: GearLength | None = Field(None, title="Width")
    length: GearLength | None = Field(None, title="Length that can hang and sweep")
    roll_diameter: GearLength | None = Field(None, title="Roll diameter")
    reflectance: ReflectanceValue | None = Field(None, title="Reflectance")
    colour: Annotated[str, Field(pattern="^#[0-9a-fA-F]{6}$")] | None = Field(None, title="Colour")
    fullness: Annotated[float, Field(ge=1, le=4)] | None = Field(
        None, title="Fullness of folds (1: flat)", json_schema_extra={"show": "×"}
    )
    curl: GearLength | None = Field(None, title="Unusable at each edge")
    cut: GearLength | None = Field(None, title="Cut off a session, on average")
    through: Efficiency | None = Field(None, title="Share of light let through")


class Holder(_Item):
    """What a background hangs from."""

    kind: Literal["holder"] = "holder"
    system: (
        Literal[
            "two stands and crossbar",
            "floor-to-ceiling poles",
            "tension rod",
            "wall brackets",
            "ceiling brackets",
            "table clamps",
            "door hooks",
            "tape or pins",
            "stands by itself",
            "board pair",
        ]
        | None
    ) = Field(None, title="System")
    min_height: GearLength | None = Field(None, title="Lowest height")
    max_height: GearLength | None = Field(None, title="Greatest height")
    min_width: GearLength | None = Field(None, title="Narrowest")
    max_width: GearLength | None = Field(None, title="Widest span")
    overhang: GearLength | None = Field(None, title="Bar beyond the background, each end")
    foot_radius: GearLength | None = Field(None, title="Leg circle radius")
    off_wall: GearLength | None = Field(None, title="Hangs this far from wall, door or table edge")
    rolls: Annotated[int, Field(ge=1, le=12)] = Field(1, title="Backgrounds it holds at once")
    load: Load | None = Field(None, title="Carries")
    bar_diameter: Thickness | None = Field(None, title="Bar: outer diameter")
    bar_wall: Thickness | None = Field(None, title="Bar: thickness of its wall")
    bar_material: Literal["aluminium", "steel"] | None = Field(None, title="Bar: made of")
    press: Force | None = Field(None, title="Rod or pole: presses with")
    screws: Annotated[int, Field(ge=1, le=12)] | None = Field(None, title="Brackets: screws in all")
    plate: GearLength | None = Field(None, title="Brackets: from the upper to the lower screws")


class KnownWith(Model):
    """How sure a head's light is through one modifier, read together: surer than both one by one [stops]."""

    id: Slug = Field(title="Through", json_schema_extra={"gear": "modifier"})
    pm: Annotated[float, Field(gt=0, le=6)] = Field(title="±", json_schema_extra={"show": "stop"})


Known = Annotated[tuple[KnownWith, ...], Field(max_length=40)]


class Flash(_Item):
    """A flash head or hot-shoe flash."""

    kind: Literal["flash"] = "flash"
    energy: Energy | None = Field(None, title="Stored energy at full power")
    guide_number: GuideNumber | None = Field(None, title="Guide number at ISO 100")
    guide_measured: bool = Field(False, title="Guide number measured by yourself")
    dose: LightDose | None = Field(None, title="Measured: lux-seconds at one metre, full power, own reflector")
    lowest_power: Annotated[float, Field(gt=0, le=1)] | None = Field(
        None, title="Lowest power, as a share of full", json_schema_extra={"show": "fraction"}
    )
    steps: Literal["whole stops", "halves", "thirds", "tenths"] | None = Field(None, title="Power is set in")
    modelling: Power | None = Field(None, title="Modelling lamp")
    kelvin: Kelvin | None = Field(None, title="Colour temperature")
    beam: Annotated[float, Field(ge=5, le=180)] | None = Field(
        None, title="Beam of its own reflector (zoom), edge to edge", json_schema_extra={"show": "°"}
    )
    duration: Seconds | None = Field(None, title="Flash duration t0.1 at full power")
    lowest_duration: Seconds | None = Field(None, title="Flash duration t0.1 at lowest power")
    high_speed: bool = Field(False, title="Can pulse through shutter times shorter than the sync")
    recycle: Seconds | None = Field(None, title="Recycle time at full power")
    fired: Literal["radio", "optical slave", "cable", "camera shoe"] | None = Field(None, title="Fired by")
    supply: Literal["mains", "battery"] | None = Field(None, title="Fed by")
    receiver: bool = Field(False, title="Has a radio receiver built in")
    flashes: Annotated[int, Field(ge=1, le=100_000)] | None = Field(None, title="Full-power flashes a charge")
    pack: Mass | None = Field(None, title="Separate power pack, hung low")
    diameter: GearLength | None = Field(None, title="Diameter")
    length: GearLength | None = Field(None, title="Length")
    foot: Connector | None = Field(None, title="Sits on")
    front: Mount | None = Field(None, title="Takes modifiers by")
    yoke: bool = Field(True, title="Tilts on its own yoke")
    shaft: bool = Field(False, title="Has a hole for an umbrella")
    cord: GearLength | None = Field(None, title="Its own mains lead")
    trim: Trim | None = Field(None, title="By readings it gives more than claimed (less: minus)")
    simulated: bool = Field(False, title="Corrected by simulated readings")
    known_with: Known = ()


class Lamp(_Item):
    """A continuous light: panel, spot, tube, bulb, screen."""

    kind: Literal["lamp"] = "lamp"
    form: Literal["spot", "panel", "tube", "bulb", "ring", "screen"] | None = Field(None, title="Form")
    power: Power | None = Field(None, title="Draws")
    lumens: Flux | None = Field(None, title="Luminous flux")
    technology: Literal["LED", "compact fluorescent", "filament"] | None = Field(None, title="How it makes light")
    equivalent: Power | None = Field(None, title="Sold as like a filament bulb of")
    lux: Illuminance | None = Field(None, title="Or: illuminance on its axis")
    lux_at: GearLength | None = Field(None, title="Illuminance measured at")
    beam: Annotated[float, Field(ge=5, le=180)] | None = Field(
        None, title="Beam, edge to edge", json_schema_extra={"show": "°"}
    )
    kelvin: Kelvin | None = Field(None, title="Colour temperature")
    colour: Annotated[str, Field(pattern="^#[0-9a-fA-F]{6}$")] | None = Field(None, title="Coloured light")
    dims_to: Annotated[float, Field(gt=0, le=1)] | None = Field(
        None, title="Dims to, as a share of full", json_schema_extra={"show": "fraction"}
    )
    flicker: Literal["none", "with the mains"] | None = Field(None, title="Flickers")
    fan: bool = Field(False, title="Has a fan that can be heard")
    supply: Literal["mains", "battery"] | None = Field(None, title="Fed by")
    diameter: GearLength | None = Field(None, title="Diameter")
    width: GearLength | None = Field(None, title="Luminous face, width")
    height: GearLength | None = Field(None, title="Luminous face, height")
    length: GearLength | None = Field(None, title="Length")
    watt_hours: WattHours | None = Field(None, title="Battery holds")
    foot: Connector | None = Field(None, title="Sits on")
    front: Mount | None = Field(None, title="Takes modifiers by")
    yoke: bool = Field(True, title="Tilts on its own yoke")
    shaft: bool = Field(False, title="Has a hole for an umbrella")
    cord: GearLength | None = Field(None, title="Its own mains lead")
    trim: Trim | None = Field(None, title="By readings it gives more than claimed (less: minus)")
    simulated: bool = Field(False, title="Corrected by simulated readings")
    known_with: Known = ()
    distribution: Distribution | None = None


class Modifier(_Item):
    """Something that shapes light in front of a head."""

    kind: Literal["modifier"] = "modifier"
    form: (
        Literal[
            "softbox",
            "octabox",
            "strip box",
            "umbrella",
            "reflector dish",
            "beauty dish",
            "lantern",
            "ring",
            "snoot",
            "gobo holder",
        ]
        | None
    ) = Field(None, title="Form")
    width: GearLength | None = Field(None, title="Face width (or diameter)")
    height: GearLength | None = Field(None, title="Face height (empty: round)")
    depth: GearLength | None = Field(None, title="Depth")
    efficiency: Efficiency | None = Field(None, title="Share of the light that leaves the face")
    loss: Stops | None = Field(None, title="Loss against the head's own reflector")
    umbrella: Literal["white, bounced", "silver, bounced", "shoot-through", "reverse with diffuser"] | None = Field(
        None, title="An umbrella: how it is used"
    )
    layers: Annotated[int, Field(ge=0, le=4)] | None = Field(None, title="Diffusion layers")
    grid: bool = Field(False, title="Grid in front")
    grid_angle: Annotated[float, Field(ge=5, le=90)] | None = Field(
        None, title="Grid cuts off at, from the axis", json_schema_extra={"show": "°"}
    )
    beam: Annotated[float, Field(ge=2, le=180)] | None = Field(
        None, title="Beam, edge to edge", json_schema_extra={"show": "°"}
    )
    mount: Mount | None = Field(None, title="Fits heads by")
    takes: Power | None = Field(None, title="Takes lamps up to")
    trim: Trim | None = Field(None, title="By readings it lets more through (less: minus)")
    simulated: bool = Field(False, title="Corrected by simulated readings")


class Gel(_Item):
    """A coloured sheet in front of a lamp."""

    kind: Literal["gel"] = "gel"
    shift: Annotated[float, Field(ge=-500, le=500)] | None = Field(
        None, title="Shift (plus: warmer)", json_schema_extra={"show": "mired"}
    )
    colour: Annotated[str, Field(pattern="^#[0-9a-fA-F]{6}$")] | None = Field(None, title="Colour it lets through")
    loss: Stops | None = Field(None, title="Light lost")
    takes: Power | None = Field(None, title="Takes lamps up to")


class Stand(_Item):
    """What a light or a camera stands on or hangs from."""

    kind: Literal["stand"] = "stand"
    use: Literal[
        "light stand",
        "rolling stand",
        "boom stand",
        "boom arm",
        "wall boom",
        "tripod",
        "floor stand",
        "copy arm",
        "twin stand",
        "rail or crossbar",
        "floor-to-ceiling pole",
        "wall bracket",
        "ceiling bracket",
        "door clip",
        "hook",
        "adhesive hook",
    ] = Field("light stand", title="Use")
    min_height: GearLength | None = Field(None, title="Lowest height")
    max_height: GearLength | None = Field(None, title="Greatest height")
    foot_radius: GearLength | None = Field(None, title="Leg circle radius")
    legs: Annotated[int, Field(ge=3, le=6)] = Field(3, title="Legs")
    castors: bool = Field(False, title="On castors")
    reach: GearLength | None = Field(None, title="Boom reach")
    tail: GearLength | None = Field(None, title="Boom behind its pivot, with counterweight")
    load: Load | None = Field(None, title="Carries")
    shortest: GearLength | None = Field(None, title="Boom: drawn in to (its load holds there)")
    load_far: Load | None = Field(None, title="Boom: carries drawn out fully")
    boom_mass: Mass | None = Field(None, title="Boom or arm alone")
    counterweight: Mass | None = Field(None, title="Counterweight that comes with it")
    top: Connector | None = Field(None, title="Ends in")
    seat: Connector | None = Field(None, title="Boom arm: sits on")
    grip: Torque | None = Field(None, title="Clamp holds against turning")
    through_screw: bool = Field(False, title="Clamp has a screw through the rail")
    press: Force | None = Field(None, title="Pole: presses with")
    screws: Annotated[int, Field(ge=1, le=8)] | None = Field(None, title="Bracket or wall arm: screws")
    plate: GearLength | None = Field(None, title="Bracket or wall arm: from the upper to the lower screws")


class Board(_Item):
    """Reflector, flag or card."""

    kind: Literal["board"] = "board"
    surface: (
        Literal["white", "silver", "black", "translucent", "mirror", "foil", "glossy white", "glossy black"] | None
    ) = Field(None, title="Surface")
    reflectance: ReflectanceValue | None = Field(None, title="Reflectance, measured")
    through: Efficiency | None = Field(None, title="Share of light let through, measured")
    width: GearLength | None = Field(None, title="Width")
    height: GearLength | None = Field(None, title="Height")


HANGING = frozenset({"hanger hook", "dress form"})
"""Forms of a table that carry a garment by hanging."""


TABLES = frozenset({"table", "translucent table", "stool"})
"""Forms that stand on the floor and carry on their top."""


class Table(_Item):
    """Table, stool or other thing a subject is put on."""

    kind: Literal["table"] = "table"
    form: Literal["table", "stool", "dress form", "hanger hook", "translucent table", "turntable", "water tray"] = (
        Field("table", title="Form")
    )
    length: GearLength | None = Field(None, title="Length")
    width: GearLength | None = Field(None, title="Width")
    height: GearLength | None = Field(None, title="Height")
    load: Load | None = Field(None, title="Carries")
    reflectance: ReflectanceValue | None = Field(None, title="Top: reflectance")
    through: Efficiency | None = Field(None, title="Top: share of light let through (translucent)")


class Tent(_Item):
    """A closed diffusing body round a product, with a hole for the lens."""

    kind: Literal["tent"] = "tent"
    form: Literal["box", "cone"] = Field("box", title="Form")
    width: GearLength | None = Field(None, title="Width (cone: across its wide end)")
    depth: GearLength | None = Field(None, title="Depth (empty: as wide)")
    height: GearLength | None = Field(None, title="Height (cone: from wide end to hole)")
    opening: GearLength | None = Field(None, title="Hole for the lens, across")
    opening_at: GearLength | None = Field(None, title="Middle of the hole above its floor (empty: half way)")
    reflectance: ReflectanceValue | None = Field(None, title="Cloth: reflectance")
    through: Efficiency | None = Field(None, title="Cloth: share of light let through")


class Lead(_Item):
    """A mains lead or drum."""

    kind: Literal["lead"] = "lead"
    length: GearLength | None = Field(None, title="Length")
    conductor: Conductor | None = Field(None, title="Conductor")
    rating: Current | None = Field(None, title="Rated, laid out")
    drum: bool = Field(False, title="On a drum")
    rolled: Current | None = Field(None, title="Drum: rated rolled up")
    outlets: Annotated[int, Field(ge=1, le=12)] = Field(1, title="Outlets")


class Part(_Item):
    """Small parts: clamps, weights, triggers, tape, batteries, boards, consumables."""

    kind: Literal["part"] = "part"
    use: Literal[
        "clamp",
        "weight",
        "trigger",
        "transmitter",
        "receiver",
        "sync cable",
        "cable",
        "adapter",
        "bulb holder",
        "battery",
        "tape",
        "floor board",
        "telephone holder",
        "blackout",
        "storage",
        "other",
    ] = Field("other", title="Use")
    width: GearLength | None = Field(None, title="Width")
    height: GearLength | None = Field(None, title="Height")
    length: GearLength | None = Field(None, title="Cable: length")
    below: Connector | None = Field(None, title="Sits on")
    above: Connector | None = Field(None, title="Offers")
    swivel: bool = Field(False, title="Tilts")
    shaft: bool = Field(False, title="Holds an umbrella")
    head_side: Mount | None = Field(None, title="Ring: fits heads by")
    modifier_side: Mount | None = Field(None, title="Ring: takes modifiers by")
    rating: Power | None = Field(None, title="Bulb holder: rated up to")
    groups: Annotated[int, Field(ge=1, le=32)] | None = Field(None, title="Transmitter: groups")
    fits: Literal["hot shoe", "own shoe only", "sync socket only"] | None = Field(
        None, title="Transmitter: sits on the camera's"
    )


class Microphone(_Item):
    """A microphone; one on a boom hangs at the end of an arm that reaches to its stand."""

    kind: Literal["microphone"] = "microphone"
    form: Literal["on a boom", "lavalier", "on the camera", "earphones"] = Field("on a boom", title="Form")
    pattern: Literal["all round", "cardioid", "supercardioid", "hypercardioid", "shotgun"] | None = Field(
        None, title="Picks up"
    )
    length: GearLength | None = Field(None, title="Length")
    diameter: GearLength | None = Field(None, title="Diameter, its foam on")
    reach: GearLength | None = Field(None, title="Its boom arm reaches")
    hiss: Level | None = Field(None, title="Own noise")
    cord: GearLength | None = Field(None, title="Its cable")
    wireless: bool = Field(False, title="Sends without a cable")


Item = Annotated[
    Camera
    | Lens
    | Backdrop
    | Holder
    | Flash
    | Lamp
    | Modifier
    | Gel
    | Stand
    | Board
    | Table
    | Tent
    | Lead
    | Part
    | Microphone,
    Field(discriminator="kind"),
]
KINDS: dict[str, type[_Item]] = {
    "camera": Camera,
    "lens": Lens,
    "backdrop": Backdrop,
    "holder": Holder,
    "flash": Flash,
    "lamp": Lamp,
    "modifier": Modifier,
    "gel": Gel,
    "stand": Stand,
    "board": Board,
    "table": Table,
    "tent": Tent,
    "lead": Lead,
    "part": Part,
    "microphone": Microphone,
}
