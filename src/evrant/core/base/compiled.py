"""How the inner loops of light are compiled."""

from collections.abc import Callable
from typing import Any, TypeVar, cast

from numba import njit
from numpy.typing import NDArray

Array = NDArray[Any]
Kernel = TypeVar("Kernel", bound=Callable[..., Any])
_jit = njit(cache=True, nogil=True, fastmath={"contract", "arcp", "nsz", "reassoc"}, error_model="numpy")


def compiled(function: Kernel) -> Kernel:
    """The function compiled on its first call and kept on disk; the interpreter's lock is free while it runs."""
    return cast(Kernel, _jit(function))
