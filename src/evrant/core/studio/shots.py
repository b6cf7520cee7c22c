"""Shots: who or what is in the picture, how much of it, and how the camera is set."""

import math
from collections.abc import Sequence
from functools import partial
from typing import Annotated, Literal

from pydantic import Field

from evrant.core.base.memo import Memo
from evrant.core.base.model import Keeper, Model, Name, Note, Slug
from evrant.core.base.quantity import BodyLength, Distance, FNumber, Load, ReflectanceValue, WishLength

SubjectKind = Literal["person", "cat", "dog", "object", "garment"]
LIVING: frozenset[SubjectKind] = frozenset({"person", "cat", "dog"})
"""Subjects that do not hold still for long."""
Posture = Literal["standing", "seated", "kneeling", "lying"]
Crop = Literal["head and shoulders", "half length", "three-quarter", "full length", "whole subject"]
Tone = Literal["white", "grey", "black", "colour"]
Pattern = Literal[
    "butterfly",
    "loop",
    "Rembrandt",
    "split",
    "clamshell",
    "broad",
    "short",
    "rim pair",
    "hair light",
    "background pair",
    "background pair, bounced fill",
    "bounced",
    "tent",
    "scrim",
    "side",
    "side pair",
    "even pair",
    "top",
    "under-light",
    "ring",
    "silhouette",
    "gobo",
    "practicals",
    "window and reflector",
]
Contrast = Literal["flat", "soft", "medium", "strong"]
Shift = Annotated[float, Field(ge=-10, le=10)]
Iso = Annotated[int, Field(ge=12, le=102400)]
Shutter = Annotated[float, Field(ge=1 / 16000, le=3600)]


LEAST_KEPT = 0.25
"""Share of a picture's height that is kept at least: less leaves a sixteenth of the pixels; project choice."""


class Subject(Model):
    """One body in the picture. `across` and `ahead` are from the mark, seen by the subject."""

    id: Slug
    name: Name = Field("Subject", title="Name")
    kind: SubjectKind = Field("person", title="Kind")
    posture: Posture = Field("standing", title="Posture")
    height: BodyLength | None = Field(None, title="Height (a person's stature, standing)")
    width: BodyLength | None = Field(None, title="Width")
    depth: BodyLength | None = Field(None, title="Depth")
    base: Distance | None = Field(None, title="Stands on something this high")
    held: bool = Field(False, title="Held in the hand, or a part of a person")
    mass: Load | None = Field(None, title="Weighs (wet, where it is wet)")
    glasses: bool = Field(False, title="Wears glasses")
    shape: Literal["box", "cylinder", "sphere", "ring"] | None = Field(None, title="Shape (things; empty: a box)")
    shine: Literal["matt", "satin", "mirror-like"] = Field("matt", title="Surface")
    reflectance: ReflectanceValue | None = Field(None, title="Reflectance of its outside (empty: usual)")
    across: Shift = Field(0.0, title="To its left of the mark", json_schema_extra={"show": "length"})
    ahead: Shift = Field(0.0, title="In front of the mark", json_schema_extra={"show": "length"})


_LEADS: Memo[Subject] = Memo(200_000, lambda subject: 200)


def _middle_one(subjects: Sequence[Subject]) -> Subject:
    """Of three people or more who is nearest to the middle of them all; else the first."""
    people = [one for one in subjects if one.kind == "person"]
    if len(people) < 3:
        return subjects[0]
    across, ahead = [one.across for one in people], [one.ahead for one in people]
    middle = ((min(across) + max(across)) / 2, (min(ahead) + max(ahead)) / 2)
    return min(people, key=lambda one: math.hypot(one.across - middle[0], one.ahead - middle[1]))


EXPOSURE = frozenset({"aperture", "iso", "shutter", "dark_filter"})
"""Fields of a shot that say how it is exposed, and nothing of what is in the picture."""
WANTED = frozenset({"name", "notes", "priority", "sessions"})
"""Fields of a shot that say what it is called and how much it is wanted, and nothing of how it is made."""


class Shot(Keeper):
    """A picture that is wanted."""

    id: Slug
    name: Name = Field("Shot", title="Name")
    subjects: tuple[Subject, ...] = Field((), max_length=12)
    crop: Crop = Field("whole subject", title="Crop")
    frame_height: WishLength | None = Field(None, title="Frame height at the subject (empty: from the crop)")
    orientation: Literal["portrait", "landscape"] = Field("portrait", title="Camera held")
    angle: Annotated[float, Field(ge=-30, le=90)] = Field(
        0.0, title="Camera looks down by (straight down: 90)", json_schema_extra={"show": "°"}
    )
    kept: Annotated[float, Field(ge=LEAST_KEPT, le=1)] = Field(
        1.0, title="Taken from further back and cropped: share kept of its height"
    )
    movement: WishLength | None = Field(None, title="Room to move, each side")
    parts: Annotated[int, Field(ge=1, le=6)] = Field(1, title="Shot in how many parts and joined")
    stack: Annotated[int, Field(ge=1, le=40)] = Field(
        1, title="Frames focused one behind the other and joined (things)"
    )
    capture: Literal["stills", "video"] = Field("stills", title="Capture")
    aperture: FNumber | None = Field(None, title="Aperture")
    iso: Iso | None = Field(None, title="ISO")
    shutter: Shutter | None = Field(None, title="Shutter time", json_schema_extra={"show": "time"})
    sound: bool = Field(False, title="Its sound counts")
    frames: Literal["24", "25", "30", "50", "60"] | None = Field(None, title="Video: frames a second")
    dark_filter: Annotated[float, Field(ge=0, le=15)] = Field(
        0.0, title="Neutral filter on the lens", json_schema_extra={"show": "stop"}
    )
    balance: Literal["fixed", "automatic"] = Field("fixed", title="White balance")
    contrast: Contrast | None = Field(None, title="Contrast wanted")
    around: Literal["dark", "room lamps on", "daylight", "daylight and room lamps"] = Field(
        "dark", title="Light in the room besides"
    )
    background_gap: WishLength | None = Field(None, title="Least distance to the background")
    blur: Literal["background sharp", "background soft"] | None = Field(None, title="Background wanted")
    tone: Tone | None = Field(None, title="Background tone")
    pattern: Pattern | None = Field(None, title="Light pattern")
    priority: Literal["must", "should", "could"] = Field("must", title="Priority")
    sessions: Annotated[int, Field(ge=1, le=366)] | None = Field(None, title="Sessions a year")
    notes: Note = Field("", title="Notes")

    @property
    def lead(self) -> Subject:
        """Whose light is metered: the first subject, of three people or more who is nearest to their middle. Raises
        IndexError where there is none."""
        return (
            self.subjects[0] if len(self.subjects) < 3 else _LEADS.get("", (self,), partial(_middle_one, self.subjects))
        )

    @property
    def of_person(self) -> bool:
        """Whether light is metered at a person."""
        return bool(self.subjects) and self.lead.kind == "person"

    @property
    def lit_part(self) -> str:
        """What lights are aimed at and metered at, in words: the lead's face, or a subject that has none."""
        return "the face" if not self.subjects or self.lead.kind in LIVING else "the subject"

    @property
    def held_otherwise(self) -> Literal["landscape", "portrait"] | None:
        """The other way of holding the camera; none for film, which keeps the format it is shown in."""
        if self.capture == "video":
            return None
        return "landscape" if self.orientation == "portrait" else "portrait"

    @property
    def still(self) -> bool:
        """Whether nothing in it moves between two frames."""
        return self.capture == "stills" and not any(one.kind in LIVING for one in self.subjects)
