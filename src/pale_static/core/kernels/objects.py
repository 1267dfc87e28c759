"""Kernels as machine code: compiled by Numba once, kept as object files, loaded without Numba.

Importing Numba takes as long as everything else together, and reading its compiled kernels as long
again.
So a kernel's machine code is kept beside its source, as Python keeps its bytecode, and the loader
of LLVM that Numba is built on links it in a few milliseconds.

A loaded kernel is a function of Python's written in machine code. Before it computes, it checks
each array itself, so that it never writes to a wrong one. It computes without the interpreter lock.
"""

from __future__ import annotations

import ctypes
import os
import platform
import re
import sys
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from functools import cache
from hashlib import blake2b
from itertools import count
from typing import Any

import numpy as np

FOLDER = os.path.join(os.path.dirname(__file__), "__pycache__")
PACKAGE = __name__.rpartition(".")[0]
_ARRAY = re.compile(r"(byte_|word_|index_|exact_|)(in|out)([123])")
"""An array in a signature; see :func:`pale_static.core.kernels.rows.compiled`."""
_ELEMENTS = {
    "": ("float32", 11, 4), "byte_": ("uint8", 2, 1), "word_": ("uint16", 4, 2),
    "index_": ("int32", 5, 4), "exact_": ("float64", 12, 8),
}  # fmt: skip
"""Element types by their prefix: name, number in NumPy's C interface (NPY_TYPES), bytes."""
_PLAIN = {"f": ("float32", "float"), "i": ("int64", "i64"), "b": ("boolean", "i8")}
"""Numbers in a signature: Numba's type, LLVM's type."""

# Offsets of the fields read here in NumPy's array object and its type (PyArrayObject_fields and
# PyArray_Descr of the C interface, with 64-bit pointers), and the flags that must be set.
_TYPE, _DATA, _DIMENSIONS, _SHAPE, _ELEMENT, _FLAGS = 8, 16, 24, 32, 56, 64
_NUMBER = 28
_CONTIGUOUS, _ALIGNED, _WRITEABLE = 0x1, 0x100, 0x400
_WRONG = -100
"""If argument k is wrong, a kernel gives this minus k."""
_PYTHON = [
    "declare i64 @PyLong_AsLongLong(ptr)", "declare double @PyFloat_AsDouble(ptr)",
    "declare i32 @PyObject_IsTrue(ptr)", "declare ptr @PyErr_Occurred()",
    "declare ptr @PyLong_FromLong(i64)", "declare ptr @PyEval_SaveThread()",
    "declare void @PyEval_RestoreThread(ptr)",
]  # fmt: skip
"""Functions of Python's C interface that a kernel calls."""

_CONTROL = ["declare void @llvm.x86.sse.stmxcsr(ptr)", "declare void @llvm.x86.sse.ldmxcsr(ptr)"]
_FLUSHING = [
    "  %before = alloca i32",
    "  %flushing = alloca i32",
    "  call void @llvm.x86.sse.stmxcsr(ptr %before)",
    "  %word = load i32, ptr %before",
    "  %flags = or i32 %word, 32832",
    "  store i32 %flags, ptr %flushing",
    "  call void @llvm.x86.sse.ldmxcsr(ptr %flushing)",
]
_NOT_FLUSHING = ["  call void @llvm.x86.sse.ldmxcsr(ptr %before)"]
"""A kernel treats numbers below 1.2e-38 as 0 (bits 6 and 15 of the control word of x86). Fading
light soon gives such numbers, and the processor is a hundred times slower with them."""

_CHECK = 16
"""Length of the digest at the start of an object file, in bytes."""

_MEMORY = """
declare ptr @malloc(i64)
declare void @free(ptr)

define ptr @NRT_MemInfo_alloc_aligned(i64 %size, i32 %align) {
  %unit = zext i32 %align to i64
  %room = add i64 %size, 48
  %whole = add i64 %room, %unit
  %info = call ptr @malloc(i64 %whole)
  %none = icmp eq ptr %info, null
  br i1 %none, label %end, label %fill
fill:
  %start = ptrtoint ptr %info to i64
  %after = add i64 %start, 47
  %up = add i64 %after, %unit
  %mask = sub i64 0, %unit
  %at = and i64 %up, %mask
  %head.0 = insertvalue [6 x i64] zeroinitializer, i64 1, 0
  %head.1 = insertvalue [6 x i64] %head.0, i64 %at, 3
  %head.2 = insertvalue [6 x i64] %head.1, i64 %size, 4
  store [6 x i64] %head.2, ptr %info
  br label %end
end:
  ret ptr %info
}

define void @NRT_MemInfo_call_dtor(ptr %info) {
  call void @free(ptr %info)
  ret void
}

define ptr @NRT_Allocate(i64 %size) {
  %memory = call ptr @malloc(i64 %size)
  ret ptr %memory
}

define void @NRT_Free(ptr %memory) {
  call void @free(ptr %memory)
  ret void
}
"""
"""Functions that Numba calls for arrays made within a kernel. The data follows a head of six
numbers: a count of users, two for a callback, the data's address, its size, its owner."""


BASELINE = "x86-64-v3"
"""The processor that kernels are compiled for wherever it has the needed instructions, so that all
such machines compute the same bits. The System V ABI for AMD64 defines the level."""
_NEEDED = ("avx", "avx2", "bmi", "bmi2", "f16c", "fma", "lzcnt", "movbe")
"""The instructions of that level, by LLVM's names."""


@cache
def target() -> tuple[str, str]:
    """The processor and the features that kernels are compiled for, by LLVM's names.

    Features are empty for :data:`BASELINE`, whose name stands for them. A processor without them
    gets kernels of its own, and may round differently.
    """
    import llvmlite.binding as llvm

    features = llvm.get_host_cpu_features()
    if all(features.get(name) for name in _NEEDED):
        return BASELINE, ""
    return llvm.get_host_cpu_name(), features.flatten()


def compiler() -> Any:
    """Numba, set to compile for :func:`target`."""
    import numba

    numba.config.CPU_NAME, numba.config.CPU_FEATURES = target()  # type: ignore[attr-defined]
    return numba


def machine() -> str:
    """The processor and the versions that kernels are compiled for, as one text."""
    import llvmlite

    # Each version of Numba needs one version of llvmlite, and llvmlite gives its version without
    # loading Numba.
    versions = [llvmlite.__version__, np.__version__, str(sys.implementation.cache_tag)]
    return " ".join([*target(), *versions])


_IMPORT = re.compile(rb"^from (\.+)([\w.]*) import (\([^)]*\)|.+)$", re.MULTILINE)


@cache
def _sources(module: str) -> bytes:
    """A digest of a module's source and of the kernels that it imports, with theirs in turn."""
    with open(str(sys.modules[module].__file__), "rb") as file:
        text = file.read()
    digest = blake2b(text)
    for dots, name, names in re.findall(_IMPORT, text):
        package = module.rsplit(".", len(dots))[0]
        base = f"{package}.{name.decode()}" if name else package
        for one in (base, *(f"{base}.{part.decode()}" for part in re.findall(rb"\w+", names))):
            kernels = one.startswith(f"{PACKAGE}.") and hasattr(sys.modules.get(one), "__file__")
            if kernels and one != module:
                digest.update(_sources(one))
    return digest.digest()


@cache
def _machine_mark() -> str:
    return blake2b(machine().encode(), digest_size=4).hexdigest()


def _file(function: Callable[..., None], words: list[str], finite: bool) -> tuple[str, str]:
    """The name of a kernel's object file, and the beginning that its older files share."""
    fixed = [repr(cell.cell_contents) for cell in function.__closure__ or ()]
    digest = blake2b(digest_size=10)
    digest.update(_sources(function.__module__) + repr((words, finite, fixed)).encode())
    module = function.__module__.rpartition(".")[2]
    # The name carries a mark of the machine, so machines that share a folder keep each other's
    # files.
    place = [module, function.__qualname__.replace(".<locals>", ""), *fixed, _machine_mark()]
    named = ".".join([*place, ""])
    begins = re.sub(r"[^\w.-]", "_", named)
    return f"{begins}{digest.hexdigest()}.o", begins


def _folders() -> list[str]:
    """Folders for object files: beside the source, or in the user's cache if that is read-only."""
    home = os.environ.get("XDG_CACHE_HOME") or os.path.join(os.path.expanduser("~"), ".cache")
    return [FOLDER, os.path.join(home, "pale-static", "kernels")]


def _kept(name: str) -> bytes | None:
    """The code in an object file; None if the file is missing or damaged."""
    for folder in _folders():
        try:
            with open(os.path.join(folder, name), "rb") as file:
                digest, data = file.read(_CHECK), file.read()
        except OSError:
            continue
        if blake2b(data, digest_size=_CHECK).digest() == digest:
            return data
    return None


def _keep(name: str, begins: str, data: bytes) -> None:
    """Write an object file, whole or not at all, and delete the kernel's older ones."""
    for folder in _folders():
        beside = os.path.join(folder, f"{name}.{os.getpid()}")
        try:
            os.makedirs(folder, exist_ok=True)
            with open(beside, "wb") as file:
                file.write(blake2b(data, digest_size=_CHECK).digest() + data)
            os.replace(beside, os.path.join(folder, name))
            for other in os.listdir(folder):
                if other.startswith(begins) and other.endswith(".o") and other != name:
                    os.unlink(os.path.join(folder, other))
        except OSError:
            continue
        return


def entry(symbol: str, words: list[str]) -> str:
    """LLVM code of a Python function that checks its arguments and calls a kernel.

    ``kernel(first, last, …)``: two int64, then for each word an array or a number. It gives 0,
    Numba's status for a fault, or ``-100 - k`` if argument k is not an array with the type,
    dimensions, order and write access that its word names. NumPy's array type is its ``self``.
    """
    reads: list[str] = []
    checks: list[str] = []
    given = ["ptr %result", "ptr %fault", "i64 %first", "i64 %last"]

    def read(name: str, kind: str, base: str, offset: int, lines: list[str] = checks) -> None:
        lines.append(f"  %{name}.at = getelementptr i8, ptr %{base}, i64 {offset}")
        lines.append(f"  %{name} = load {kind}, ptr %{name}.at")

    def whole(name: str) -> None:
        reads.append(f"  %{name} = call i64 @PyLong_AsLongLong(ptr %{name}.o)")

    for k, name in enumerate(("first", "last")):
        read(f"{name}.o", "ptr", "arguments", 8 * k, reads)
        whole(name)
    for k, word in enumerate(words):
        array = _ARRAY.fullmatch(word)
        read(f"a{k}" if array else f"a{k}.o", "ptr", "arguments", 8 * k + 16, reads)
        if array is None:
            given.append(f"{_PLAIN[word][1]} %a{k}")
            if word == "i":
                whole(f"a{k}")
            elif word == "f":
                reads.append(f"  %a{k}.d = call double @PyFloat_AsDouble(ptr %a{k}.o)")
                reads.append(f"  %a{k} = fptrunc double %a{k}.d to float")
            else:
                reads.append(f"  %a{k}.i = call i32 @PyObject_IsTrue(ptr %a{k}.o)")
                reads.append(f"  %a{k} = trunc i32 %a{k}.i to i8")
            continue
        prefix, way, digits = array.groups()
        dimensions, (_, number, size) = int(digits), _ELEMENTS[prefix]
        flags = _CONTIGUOUS | _ALIGNED | (_WRITEABLE if way == "out" else 0)
        read(f"type{k}", "ptr", f"a{k}", _TYPE)
        checks += [
            f"  %array{k} = icmp eq ptr %type{k}, %array",
            f"  br i1 %array{k}, label %look{k}, label %wrong{k}",
            f"look{k}:",
        ]
        read(f"dimensions{k}", "i32", f"a{k}", _DIMENSIONS)
        read(f"flags{k}", "i32", f"a{k}", _FLAGS)
        read(f"element{k}", "ptr", f"a{k}", _ELEMENT)
        read(f"number{k}", "i32", f"element{k}", _NUMBER)
        checks += [
            f"  %set{k} = and i32 %flags{k}, {flags}",
            f"  %ordered{k} = icmp eq i32 %set{k}, {flags}",
            f"  %typed{k} = icmp eq i32 %number{k}, {number}",
            f"  %shaped{k} = icmp eq i32 %dimensions{k}, {dimensions}",
            f"  %both{k} = and i1 %ordered{k}, %typed{k}",
            f"  %all{k} = and i1 %both{k}, %shaped{k}",
            f"  br i1 %all{k}, label %right{k}, label %wrong{k}",
            f"wrong{k}:",
            f"  %told{k} = call ptr @PyLong_FromLong(i64 {_WRONG - k})",
            f"  ret ptr %told{k}",
            f"right{k}:",
        ]
        read(f"data{k}", "ptr", f"a{k}", _DATA)
        read(f"shape{k}", "ptr", f"a{k}", _SHAPE)
        stride, strides, sides = str(size), list[str](), list[str]()
        for d in reversed(range(dimensions)):
            read(f"side{k}.{d}", "i64", f"shape{k}", 8 * d)
            sides.insert(0, f"i64 %side{k}.{d}")
            strides.insert(0, f"i64 {stride}")
            checks.append(f"  %stride{k}.{d} = mul i64 {stride}, %side{k}.{d}")
            stride = f"%stride{k}.{d}"
        checks.append(f"  %items{k} = udiv i64 {stride}, {size}")
        given += ["ptr null", "ptr null", f"i64 %items{k}", f"i64 {size}", f"ptr %data{k}"]
        given += [*sides, *strides]
    flushes = platform.machine() in ("x86_64", "AMD64")
    return "\n".join([
        *_PYTHON,
        *(_CONTROL if flushes else ()),
        "define ptr @kernel(ptr %array, ptr %arguments, i64 %count) {",
        f"  %counted = icmp eq i64 %count, {len(words) + 2}",
        "  br i1 %counted, label %read, label %few",
        "few:",
        f"  %short = call ptr @PyLong_FromLong(i64 {_WRONG - len(words)})",
        "  ret ptr %short",
        "read:",
        "  %result = alloca ptr",
        "  %fault = alloca ptr",
        *reads,
        "  %raised = call ptr @PyErr_Occurred()",
        "  %fine = icmp eq ptr %raised, null",
        "  br i1 %fine, label %check, label %raise",
        "raise:",
        "  ret ptr null",
        "check:",
        *checks,
        "  %lock = call ptr @PyEval_SaveThread()",
        *(_FLUSHING if flushes else ()),
        f"  %status = call i32 @{symbol}({', '.join(given)})",
        *(_NOT_FLUSHING if flushes else ()),
        "  call void @PyEval_RestoreThread(ptr %lock)",
        "  %long = sext i32 %status to i64",
        "  %told = call ptr @PyLong_FromLong(i64 %long)",
        "  ret ptr %told",
        "}",
        "",
    ])  # fmt: skip


def _numba_types(words: list[str]) -> list[Any]:
    """The types that Numba needs for a signature's words."""
    import numba

    types: list[Any] = []
    for word in words:
        array = _ARRAY.fullmatch(word)
        if array is None:
            types.append(getattr(numba, _PLAIN[word][0]))
            continue
        prefix, way, dimensions = array.groups()
        element = getattr(numba, _ELEMENTS[prefix][0])
        types.append(numba.types.Array(element, int(dimensions), "C", readonly=way == "in"))
    return types


@contextmanager
def unlinked() -> Iterator[None]:
    """Compile without the machine code that Numba makes for calls from Python: nobody makes them.

    That would take a quarter of the time.
    """
    from numba.core.compiler_lock import global_compiler_lock
    from numba.core.registry import cpu_target

    def finish(library: Any, *_: Any) -> Any:
        library._ensure_finalized()
        # Numba needs a built-in function for everything it compiles. This one takes no arguments.
        return {}.popitem

    context: Any = cpu_target.target_context
    engine = context.codegen()._engine
    with global_compiler_lock:
        engine.finalize_object, context.get_executable = (lambda: None), finish
        try:
            yield
        finally:
            del engine.finalize_object, context.get_executable  # restore the methods of the classes


def _compiled(function: Callable[..., None], words: list[str], finite: bool) -> bytes:
    """A kernel's object file, made by Numba."""
    import llvmlite.binding as llvm

    numba = compiler()
    from numba.core.compiler import Flags, compile_extra

    math = {"contract", "nnan"} if finite else {"contract"}
    made: Any = numba.njit(nogil=True, error_model="numpy", fastmath=math)(function)
    target = made.targetdescr
    flags: Any = Flags()
    target.options.parse_as_flags(flags, made.targetoptions)
    flags.no_cpython_wrapper = flags.no_cfunc_wrapper = True
    arguments = (numba.int64, numba.int64, *_numba_types(words))
    with unlinked():
        result = compile_extra(
            target.typing_context, target.target_context, function, arguments, numba.void, flags, {}
        )
        code = re.sub(r"^declare .*@NRT_.*$", "", result.library.get_llvm_str(), flags=re.M)
        code += entry(result.fndesc.llvm_func_name, words)
        if "@NRT_" in code:
            code += _MEMORY
        module = llvm.parse_assembly(code)
        for part in module.functions:
            if not part.is_declaration and part.name != "kernel":
                part.linkage = "internal"
        module.verify()
        return bytes(result.library.codegen._tm.emit_object(module))


@cache
def _loader() -> Any:
    import llvmlite.binding as llvm

    llvm.initialize_native_target()
    llvm.initialize_native_asmprinter()
    return _for_good(llvm.create_lljit_compiler())


def _for_good(thing: Any) -> Any:
    """Never free this object: when Python exits, a thread may still run a kernel."""
    ctypes.pythonapi.Py_IncRef(ctypes.py_object(thing))
    return thing


class _Method(ctypes.Structure):
    """Python's record of a function written in C: PyMethodDef."""

    _fields_ = (
        ("name", ctypes.c_char_p), ("call", ctypes.c_void_p), ("flags", ctypes.c_int),
        ("text", ctypes.c_char_p),
    )  # fmt: skip


_numbers = count()
_FAST = 0x80
"""METH_FASTCALL: arguments come as an array and its length."""


def _linked(data: bytes) -> Callable[..., int]:
    import llvmlite.binding as llvm

    builder = llvm.JITLibraryBuilder().add_object_img(data).export_symbol("kernel")
    library = _for_good(builder.add_current_process().link(_loader(), f"kernel {next(_numbers)}"))
    method = _for_good(_Method(b"kernel", library["kernel"], _FAST, None))
    make = ctypes.pythonapi.PyCFunction_NewEx
    make.restype = ctypes.py_object
    made: Callable[..., int] = make(
        ctypes.byref(method), ctypes.py_object(np.ndarray), ctypes.c_void_p()
    )
    return made


def ready(
    function: Callable[..., None], signature: str, finite: bool, before: Callable[[], None]
) -> Callable[..., int]:
    """A kernel as a function in machine code: from its object file, or made by Numba and kept.

    ``before()`` is called before Numba compiles. The function takes ``first, last`` and the
    arguments of the signature, and gives 0 or a status of :func:`entry`.
    """
    words = signature.split()
    name, begins = _file(function, words, finite)
    data = _kept(name)
    if data is None:
        before()
        data = _compiled(function, words, finite)
        _keep(name, begins, data)
    return _linked(data)


def refusal(status: int, name: str, words: list[str], arguments: tuple[Any, ...]) -> Exception:
    """The error for a kernel's status other than 0."""
    if status > _WRONG:
        return MemoryError(f"{name} could not allocate memory")
    k = _WRONG - status
    if k >= len(words):
        return TypeError(f"{name} takes {len(words) + 2} arguments, got {len(arguments)}")
    given = arguments[k + 2]
    shown = (
        f"{given.dtype} {given.shape}, {'' if given.flags.c_contiguous else 'not '}contiguous"
        if isinstance(given, np.ndarray)
        else type(given).__name__
    )
    return TypeError(f"{name}, argument {k}: wanted {words[k]}, got {shown}")
