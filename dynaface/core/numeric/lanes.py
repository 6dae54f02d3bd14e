"""Eight numbers at a time inside Numba's functions, for loops whose rows lie in one array.

There the compiler cannot know that a row that is written is none of those that are read, and goes number by number. Arrays are flat and
contiguous float64, places are counted in numbers, and eight of them must lie in the array from there. Callers that Numba
keeps must close over `stamp_of_lanes`: it does not see that this file has changed.
"""

from collections.abc import Callable
from hashlib import blake2b
from pathlib import Path
from typing import Any

from llvmlite import ir
from numba import types
from numba.extending import intrinsic, models, register_model

WIDTH = 8
_INDEX, _DOUBLE = ir.IntType(32), ir.DoubleType()
_VECTOR = ir.VectorType(_DOUBLE, WIDTH)
_FAST = ("fast",)


def stamp_of_lanes() -> int:
    """A number that changes with this file, not below 0."""
    return int.from_bytes(blake2b(Path(__file__).read_bytes(), digest_size=7).digest(), "big")


class Lanes(types.Type):
    """Numba's type of eight float64."""

    def __init__(self) -> None:
        super().__init__("Lanes")


LANES = Lanes()


@register_model(Lanes)
class _LanesModel(models.PrimitiveModel):
    def __init__(self, manager: Any, kind: Lanes) -> None:
        super().__init__(manager, kind, _VECTOR)  # type: ignore[no-untyped-call]


def _inside(made: Callable[..., Any]) -> Any:
    """A function for use inside Numba's; it is called there without its first argument."""
    return intrinsic(made)


def _place(context: Any, builder: Any, kind: Any, array: Any, index: Any) -> Any:
    data = context.make_array(kind)(context, builder, array).data
    return builder.bitcast(builder.gep(data, [index]), _VECTOR.as_pointer())


def _spread(builder: Any, number: Any) -> Any:
    unknown = ir.Constant(_VECTOR, ir.Undefined)
    first = builder.insert_element(unknown, number, ir.Constant(_INDEX, 0))
    return builder.shuffle_vector(first, unknown, ir.Constant(ir.VectorType(_INDEX, WIDTH), [0] * WIDTH))


@_inside
def load(_typing: Any, array: Any, index: Any) -> Any:
    """load(array, index): the eight numbers from there."""

    def code(context: Any, builder: Any, signature: Any, args: Any) -> Any:
        return builder.load(_place(context, builder, signature.args[0], *args), align=8)

    return LANES(array, types.intp), code


@_inside
def store(_typing: Any, array: Any, index: Any, lanes: Any) -> Any:
    """store(array, index, lanes): puts them there."""

    def code(context: Any, builder: Any, signature: Any, args: Any) -> Any:
        builder.store(args[2], _place(context, builder, signature.args[0], *args[:2]), align=8)
        return context.get_dummy_value()

    return types.void(array, types.intp, LANES), code


@_inside
def zeros(_typing: Any) -> Any:
    """zeros(): eight zeros."""
    return LANES(), lambda _context, _builder, _signature, _args: ir.Constant(_VECTOR, [0.0] * WIDTH)


@_inside
def times(_typing: Any, lanes: Any, number: Any) -> Any:
    """times(lanes, number): each of them times one number."""

    def code(_context: Any, builder: Any, _signature: Any, args: Any) -> Any:
        return builder.fmul(args[0], _spread(builder, args[1]), flags=_FAST)

    return LANES(LANES, types.float64), code


@_inside
def minus(_typing: Any, lanes: Any, others: Any) -> Any:
    """minus(lanes, others): each less its other."""

    def code(_context: Any, builder: Any, _signature: Any, args: Any) -> Any:
        return builder.fsub(*args, flags=_FAST)

    return LANES(LANES, LANES), code


@_inside
def plus_product(_typing: Any, lanes: Any, one: Any, other: Any) -> Any:
    """plus_product(lanes, one, other): lanes + one * other, each with each."""

    def code(_context: Any, builder: Any, _signature: Any, args: Any) -> Any:
        return builder.fadd(args[0], builder.fmul(*args[1:], flags=_FAST), flags=_FAST)

    return LANES(LANES, LANES, LANES), code


@_inside
def total(_typing: Any, lanes: Any) -> Any:
    """total(lanes): the sum of the eight."""

    def code(_context: Any, builder: Any, _signature: Any, args: Any) -> Any:
        parts, width = args[0], WIDTH
        while width > 1:
            width //= 2
            low, high = (ir.Constant(ir.VectorType(_INDEX, width), list(range(at, at + width))) for at in (0, width))
            parts = builder.fadd(*(builder.shuffle_vector(parts, parts, half) for half in (low, high)))
        return builder.extract_element(parts, ir.Constant(_INDEX, 0))

    return types.float64(LANES), code
