"""Sets: where everything stands for one shot. Positions are plan coordinates [m], angles degrees
counter-clockwise from the direction of wall A-B."""

from typing import Annotated, Literal

from pydantic import Field
from pydantic.config import JsonDict

from evrant.core.base.model import Keeper, Model, Name, Slug
from evrant.core.base.quantity import Focal, Load, Minutes

Coordinate = Annotated[float, Field(ge=-10, le=40)]
Height = Annotated[float, Field(ge=0, le=10)]
Degrees = Annotated[float, Field(ge=-360, le=360)]
Radius = Annotated[float, Field(ge=0, le=2)]
Throw = Annotated[float, Field(gt=0, le=10)]
LENGTH: JsonDict = {"show": "length"}


Weight = Annotated[float, Field(ge=0, le=200)]
BagPlace = Literal["low on the column", "on the leg away from the load", "on the leg under the load"]
Operator = Literal["photographer behind it", "remote or timer", "oneself, seen on a screen"]


class Mark(Model):
    """Where the subject stands. Facing is empty when it faces the camera."""

    x: Coordinate | None = Field(None, title="Along A–B, from A", json_schema_extra=LENGTH)
    y: Coordinate | None = Field(None, title="Off wall A–B", json_schema_extra=LENGTH)
    facing: Degrees | None = Field(None, title="Turned to (empty: to the camera)", json_schema_extra={"show": "°"})


class CameraPlace(Model):
    """Where the lens is (its front principal plane) and what is used."""

    body: Slug | None = Field(None, title="Body", json_schema_extra={"gear": "camera"})
    lens: Slug | None = Field(None, title="Lens", json_schema_extra={"gear": "lens"})
    focal: Focal | None = Field(None, title="Focal length used (zoom)")
    support: Slug | None = Field(None, title="Tripod", json_schema_extra={"gear": "stand"})
    x: Coordinate | None = Field(None, title="Along A–B, from A", json_schema_extra=LENGTH)
    y: Coordinate | None = Field(None, title="Off wall A–B", json_schema_extra=LENGTH)
    height: Height | None = Field(None, title="Height (empty: middle of the frame)", json_schema_extra=LENGTH)
    bag: Weight | None = Field(None, title="Bag on its support", json_schema_extra={"show": "kg"})
    arm: Degrees | None = Field(
        None, title="Overhead: its support stands in this direction", json_schema_extra={"show": "°"}
    )
    arm_length: Radius | None = Field(None, title="Overhead: arm drawn out to", json_schema_extra=LENGTH)
    operator: Operator = Field("photographer behind it", title="Released by")
    microphone: Slug | None = Field(None, title="Sound by", json_schema_extra={"gear": "microphone"})
    tether: Slug | None = Field(None, title="Cable to a computer or screen", json_schema_extra={"gear": "part"})
    tether_to: Slug | None = Field(None, title="On the desk", json_schema_extra={"list": "zones"})
    tether_covered: bool = Field(False, title="Its cable under a cover")


class BackgroundPlace(Model):
    """The background's line on the floor: its middle, and where its face looks."""

    backdrop: Slug | None = Field(None, title="Background", json_schema_extra={"gear": "backdrop"})
    holder: Slug | None = Field(None, title="Holder", json_schema_extra={"gear": "holder"})
    x: Coordinate | None = Field(None, title="Along A–B, from A", json_schema_extra=LENGTH)
    y: Coordinate | None = Field(None, title="Off wall A–B", json_schema_extra=LENGTH)
    facing: Degrees | None = Field(None, title="Faces (empty: the camera)", json_schema_extra={"show": "°"})
    height: Height | None = Field(None, title="Height of its top edge", json_schema_extra=LENGTH)
    lower_by: Radius | None = Field(None, title="One end hangs lower by", json_schema_extra=LENGTH)
    wall: Slug | None = Field(None, title="Or: the bare wall", json_schema_extra={"list": "walls"})
    bag: Weight | None = Field(None, title="Bag on each stand", json_schema_extra={"show": "kg"})
    further: Annotated[int, Field(ge=0, le=11)] | None = Field(
        None, title="Further rolls on its holder (empty: as many as it takes)"
    )
    further_mass: Load | None = Field(None, title="They weigh together (empty: each as much as this one)")
    fixing_load: Load | None = Field(None, title="Each fixing is rated for")
    lands: Literal["on the floor", "on the table", "hangs free"] | None = Field(None, title="Below, it runs")
    radius: Radius | None = Field(None, title="Radius of the sweep's curve", json_schema_extra=LENGTH)


Role = Literal[
    "key",
    "fill",
    "rim",
    "hair light",
    "background light",
    "top light",
    "under-light",
    "ring light",
    "practical",
]


class LightPlace(Model):
    """A light: the middle of its luminous face, what makes it and what carries it."""

    id: Slug
    role: Role = Field("key", title="Role")
    head: Slug | None = Field(None, title="Head", json_schema_extra={"gear": "flash lamp"})
    modifier: Slug | None = Field(None, title="Modifier", json_schema_extra={"gear": "modifier"})
    gridded: bool = Field(False, title="Grid fitted")
    diffusers: Annotated[int, Field(ge=0, le=3)] = Field(0, title="Further diffusion layers")
    gel: Slug | None = Field(None, title="Gel", json_schema_extra={"gear": "gel"})
    heads: Annotated[int, Field(ge=1, le=8)] = Field(1, title="Heads stacked in it")
    support: Slug | None = Field(None, title="Stand", json_schema_extra={"gear": "stand"})
    stands_on: Slug | None = Field(None, title="A boom arm: on which stand", json_schema_extra={"gear": "stand"})
    circuit: Slug | None = Field(None, title="Plugged into circuit", json_schema_extra={"list": "circuits"})
    x: Coordinate | None = Field(None, title="Along A–B, from A", json_schema_extra=LENGTH)
    y: Coordinate | None = Field(None, title="Off wall A–B", json_schema_extra=LENGTH)
    height: Height | None = Field(None, title="Height of its middle", json_schema_extra=LENGTH)
    boom: Degrees | None = Field(None, title="Boom: stand lies in this direction", json_schema_extra={"show": "°"})
    boom_length: Radius | None = Field(None, title="Boom drawn out to", json_schema_extra=LENGTH)
    aim_x: Coordinate | None = Field(None, title="Aimed at (empty: by its role)", json_schema_extra=LENGTH)
    aim_y: Coordinate | None = Field(None, title="Aimed at, off wall A–B", json_schema_extra=LENGTH)
    aim_height: Height | None = Field(None, title="Aimed at, height", json_schema_extra=LENGTH)
    focused: Throw | None = Field(None, title="Projected shape sharp at", json_schema_extra=LENGTH)
    power: Annotated[float, Field(gt=0, le=1)] | None = Field(
        None, title="Power, share of full", json_schema_extra={"show": "fraction"}
    )
    joint: Slug | None = Field(None, title="Between stand and head", json_schema_extra={"gear": "part"})
    ring: Slug | None = Field(None, title="Between head and modifier", json_schema_extra={"gear": "part"})
    leg: Degrees | None = Field(None, title="One leg points to", json_schema_extra={"show": "°"})
    bag: Weight | None = Field(None, title="Bag", json_schema_extra={"show": "kg"})
    bag_at: BagPlace = Field("low on the column", title="It hangs")
    counterweight: Weight | None = Field(None, title="Counterweight", json_schema_extra={"show": "kg"})
    fixing_load: Load | None = Field(None, title="Each fixing is rated for")
    socket: Slug | None = Field(None, title="Plugged into socket", json_schema_extra={"list": "sockets"})
    lead: Slug | None = Field(None, title="By lead", json_schema_extra={"gear": "lead"})
    lead_on: Slug | None = Field(None, title="And that into lead", json_schema_extra={"gear": "lead"})
    unrolled: bool = Field(False, title="Drum rolled out fully")
    covered: bool = Field(False, title="Lead under a cover where people walk")
    group: Annotated[str, Field(pattern="^[A-Z]$")] | None = Field(
        None, title="Radio group", json_schema_extra={"show": "words"}
    )


PLACE = frozenset({"x", "y", "height", "aim_x", "aim_y", "aim_height"})
"""Fields of a light that say where it is and where to it looks."""


class PropPlace(Model):
    """A table, stool, board, tent or other thing standing in the set; (x, y) is its middle, a microphone's tip. Its
    boom runs the way it is turned."""

    id: Slug
    item: Slug | None = Field(None, title="What", json_schema_extra={"gear": "table board tent microphone"})
    x: Coordinate | None = Field(None, title="Along A–B, from A", json_schema_extra=LENGTH)
    y: Coordinate | None = Field(None, title="Off wall A–B", json_schema_extra=LENGTH)
    turn: Degrees = Field(0.0, title="Turned by", json_schema_extra={"show": "°"})
    height: Height | None = Field(
        None, title="Underside above floor (microphone: its height)", json_schema_extra=LENGTH
    )
    tilt: Annotated[float, Field(ge=-90, le=90)] = Field(
        0.0, title="Tilted forward by (boards, cones)", json_schema_extra={"show": "°"}
    )
    support: Slug | None = Field(None, title="Held by", json_schema_extra={"gear": "stand"})
    bag: Weight | None = Field(None, title="Bag on its stand", json_schema_extra={"show": "kg"})

    @property
    def hung(self) -> float:
        """Weight on its stand [kg]; nothing without one."""
        return (self.bag or 0.0) if self.support else 0.0


class Person(Model):
    """Someone in the room besides the subject."""

    id: Slug
    name: Name = Field("Assistant", title="Who")
    x: Coordinate | None = Field(None, title="Along A–B, from A", json_schema_extra=LENGTH)
    y: Coordinate | None = Field(None, title="Off wall A–B", json_schema_extra=LENGTH)


class Aside(Model):
    """Furniture elsewhere while this set stands; without a place it is out of the room."""

    id: Slug
    box: Slug = Field(title="What", json_schema_extra={"list": "boxes"})
    x: Coordinate | None = Field(None, title="Along A–B, from A", json_schema_extra=LENGTH)
    y: Coordinate | None = Field(None, title="Off wall A–B", json_schema_extra=LENGTH)


RUNNING = frozenset({"power", "minutes", "exposures"})
"""Fields of a set and its lights that say how strongly and how long it is used, and nothing of where anything is."""


class SetPlan(Keeper):
    """One arrangement for one shot."""

    id: Slug
    name: Name = Field("Set", title="Name")
    shot: Slug
    mark: Mark = Mark()
    camera: CameraPlace = CameraPlace()
    background: BackgroundPlace = BackgroundPlace()
    lights: tuple[LightPlace, ...] = Field((), max_length=16)
    props: tuple[PropPlace, ...] = Field((), max_length=16)
    people: tuple[Person, ...] = Field((), max_length=12)
    aside: tuple[Aside, ...] = Field((), max_length=20)
    doors: Literal["used", "stay shut", "stay open"] = Field("used", title="Doors while it stands")
    minutes: Minutes | None = Field(None, title="Stands for, in a session (minutes)")
    together: Annotated[str, Field(pattern="^[A-Z]$")] | None = Field(
        None, title="Stands at the same time as the sets of group", json_schema_extra={"show": "words"}
    )
    stays_lit: bool = Field(False, title="Its lights stay on while another of the group is used")
    blankets: Annotated[int, Field(ge=0, le=20)] = Field(0, title="Blankets hung up for the sound")
    exposures: Annotated[int, Field(ge=1, le=20_000)] | None = Field(None, title="Pictures taken in a session")

    def name_of(self, light: LightPlace) -> str:
        """What a light is called: its role, or its own name where several have that role."""
        return light.role if sum(one.role == light.role for one in self.lights) == 1 else light.id.replace("-", " ")

    def places(self) -> "list[tuple[str, Model]]":
        """(path, part) of everything that has a place in the set."""
        here = f"sets/{self.id}"
        single: list[tuple[str, Model]] = [
            (f"{here}/mark", self.mark),
            (f"{here}/camera", self.camera),
            (f"{here}/background", self.background),
        ]
        lights = [(f"{here}/lights/{one.id}", one) for one in self.lights]
        props = [(f"{here}/props/{one.id}", one) for one in self.props]
        people = [(f"{here}/people/{one.id}", one) for one in self.people]
        aside = [(f"{here}/aside/{one.id}", one) for one in self.aside]
        return [*single, *lights, *props, *people, *aside]


def used_by(plan: SetPlan) -> list[str]:
    """Ids of gear a set refers to, in a fixed order."""
    keys = [plan.camera.body, plan.camera.lens, plan.camera.support, plan.background.backdrop, plan.background.holder]
    keys += [plan.camera.tether, plan.camera.microphone]
    for light in plan.lights:
        keys += [light.head, light.modifier, light.gel, light.support, light.stands_on, light.joint, light.ring]
        keys += [light.lead, light.lead_on]
    keys += [key for prop in plan.props for key in (prop.item, prop.support)]
    return [key for key in keys if key]
