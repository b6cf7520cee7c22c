"""What people describe, as frozen Pydantic models in SI units."""

from evrant.core.studio.studio import Studio, by_id

__all__ = ["Studio", "by_id"]
