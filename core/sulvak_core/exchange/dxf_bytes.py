"""DXF files that are the same bytes when they are made the same again: no times, no numbers by chance."""

from __future__ import annotations

import io
from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any

import ezdxf


def new_dxf(setup: bool | list[str] = False) -> Any:
    """An empty DXF document (R2010). ``setup``: what of line types and styles it begins with."""
    with _still():
        return ezdxf.new("R2010", setup=setup)  # type: ignore[attr-defined]


def dxf_bytes(file: Any) -> bytes:
    """A DXF document's bytes."""
    out = io.StringIO()
    with _still():
        file.write(out)
    return out.getvalue().encode()


@contextmanager
def _still() -> Iterator[None]:
    before = ezdxf.options.write_fixed_meta_data_for_testing
    ezdxf.options.write_fixed_meta_data_for_testing = True
    try:
        yield
    finally:
        ezdxf.options.write_fixed_meta_data_for_testing = before
