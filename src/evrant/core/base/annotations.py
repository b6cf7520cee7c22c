"""What a model's annotation is made of: for forms and tables that are made from the models."""

from types import UnionType
from typing import Annotated, Any, Union, get_args, get_origin


def flattened(annotation: Any) -> tuple[list[Any], list[Any]]:
    """The types inside unions and Annotated, with the metadata found on the way."""
    origin = get_origin(annotation)
    if origin is Annotated:
        inner, *metadata = get_args(annotation)
        kinds, more = flattened(inner)
        return kinds, [*metadata, *more]
    if origin in (Union, UnionType):
        kinds, metadata = [], []
        for part in get_args(annotation):
            k, m = flattened(part)
            kinds += k
            metadata += m
        return kinds, metadata
    return [annotation], []
