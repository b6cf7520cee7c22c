"""The demo studios, in the open format."""

from importlib.resources import files

from evrant.core.studio.studio import Studio
from evrant.files.document import read_studio

NAMES = ("adoption-corner", "hands-in-view", "stones-on-file")


def demo_studio(name: str) -> Studio:
    """A demo studio by name. Raises KeyError for an unknown one."""
    if name not in NAMES:
        raise KeyError(name)
    return read_studio((files("evrant.demo") / f"{name}.json").read_bytes())
