"""The generic catalogue: invented, physically consistent items to copy into a studio."""

from evrant.catalogue.loader import Catalogue, load

__all__ = ["Catalogue", "load"]
