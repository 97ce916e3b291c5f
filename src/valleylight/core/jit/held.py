"""Hand many arrays to inner kernels as one pointer; and fetch memory before it is needed.

A named tuple of forty arrays is some three hundred machine words, which a call would copy every time. `held(arrays)` keeps
it once on the stack of the outermost kernel; inner kernels take the reference and load what they name (`scene.lamps`).
The reference must not outlive the kernel that made it.
"""

from __future__ import annotations

from typing import Any

from llvmlite import ir
from numba.core import cgutils, types
from numba.core.imputils import impl_ret_borrowed, lower_getattr_generic
from numba.core.typing.templates import AttributeTemplate, infer_getattr
from numba.extending import intrinsic, models, register_model


class Held(types.Type):
    """A pointer to a named tuple."""

    def __init__(self, inner: Any) -> None:
        self.inner = inner
        super().__init__(name=f"Held({inner})")


@register_model(Held)
class _HeldModel(models.PrimitiveModel):  # type: ignore[misc]
    def __init__(self, dmm: Any, fe_type: Any) -> None:
        super().__init__(dmm, fe_type, dmm.lookup(fe_type.inner).get_value_type().as_pointer())


@infer_getattr
class _HeldAttributes(AttributeTemplate):  # type: ignore[misc]
    key = Held

    def generic_resolve(self, held: Any, attribute: str) -> Any:  # type: ignore[override]
        if attribute in held.inner.fields:
            return held.inner.types[held.inner.fields.index(attribute)]
        return None


@lower_getattr_generic(Held)  # type: ignore[untyped-decorator]
def _load(context: Any, builder: Any, kind: Any, pointer: Any, attribute: str) -> Any:
    number = kind.inner.fields.index(attribute)
    value = builder.load(cgutils.gep_inbounds(builder, pointer, 0, number))
    return impl_ret_borrowed(context, builder, kind.inner.types[number], value)


@intrinsic  # type: ignore[untyped-decorator]
def held(typing_context: Any, arrays: Any) -> Any:
    """Reference to a named tuple, for the kernels called from here."""

    def codegen(context: Any, builder: Any, signature: Any, args: Any) -> Any:
        return cgutils.alloca_once_value(builder, args[0])

    return Held(arrays)(arrays), codegen


@intrinsic  # type: ignore[untyped-decorator]
def prefetch(typing_context: Any, address: Any) -> Any:
    """Have the processor fetch the cache line at an address while other work goes on (LLVM Language Reference, llvm.prefetch)."""

    def codegen(context: Any, builder: Any, signature: Any, args: Any) -> Any:
        word = ir.IntType(32)
        byte = ir.IntType(8).as_pointer()
        kind = ir.FunctionType(ir.VoidType(), [byte, word, word, word])
        function = cgutils.get_or_insert_function(builder.module, kind, "llvm.prefetch.p0")
        builder.call(function, [builder.inttoptr(args[0], byte), word(0), word(3), word(1)])  # to read, keep, data
        return context.get_dummy_value()

    return types.none(types.uintp), codegen
