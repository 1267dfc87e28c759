"""Every format, over the API: queued, rendered by the worker's function, and downloaded."""

from __future__ import annotations

import io
import os
import zipfile
from pathlib import Path

import av
import OpenEXR
import pytest
import tifffile
from PIL import Image

from pale_static.core import Size
from pale_static.jobs import worker
from pale_static.media.formats import FORMATS, Format
from pale_static.store import Library, renders
from pale_static.web.app import create_app

from ..conftest import write_clip
from .test_api import Api

SIZE = (64, 36)
FRAMES = 6


def shape_of(form: Format, path: Path) -> tuple[int, tuple[int, int]]:
    """The number of frames of a downloaded file, and their size, by other readers."""
    if form.numbered:
        with zipfile.ZipFile(path) as packed:
            names = packed.namelist()
            data = packed.read(names[0])
        if form.ending == ".exr":
            path.with_suffix(".exr").write_bytes(data)
            with OpenEXR.File(str(path.with_suffix(".exr"))) as file:
                high, wide = file.channels()["RGBA"].pixels.shape[:2]
            return len(names), (wide, high)
        if form.ending == ".tif":
            high, wide = tifffile.imread(io.BytesIO(data)).shape[:2]
            return len(names), (wide, high)
        return len(names), Image.open(io.BytesIO(data)).size
    if form.ending in (".png", ".webp", ".apng"):
        image = Image.open(path)
        return getattr(image, "n_frames", 1), image.size
    with av.open(str(path)) as film:
        frames = list(film.decode(video=0))
    return len(frames), (frames[0].width, frames[0].height)


@pytest.mark.parametrize("form", FORMATS, ids=lambda form: form.slug)
def test_a_render_in_this_format_is_downloaded_whole(
    library: Library, tmp_path: Path, form: Format
) -> None:
    api = Api(create_app(library, cache_bytes=64 << 20).test_client())
    with write_clip(tmp_path / "lamp.mp4", size=Size(*SIZE)).open("rb") as file:
        clip = library.bring_in(file, "lamp.mp4")
    edit = api.post("/reels", {"name": "Short", "width": SIZE[0], "height": SIZE[1]})
    change = {"do": "add-shot", "material": clip.id, "name": "Lamp", "start": 2, "length": FRAMES}
    api.post(f"/reels/{edit['id']}/changes", {"base": edit["revision"], "change": change})
    made = api.post("/renders", {"reel": edit["id"], "form": form.slug})
    taken = renders.take(library.db, os.getpid())
    assert taken is not None
    assert taken.id == made["id"]
    worker.run(library, taken)
    answer = api.ask("GET", f"/renders/{made['id']}/file")
    name = f"Short{'.zip' if form.numbered else form.ending}"
    assert f"filename={name}" in answer.headers["Content-Disposition"]
    (tmp_path / name).write_bytes(answer.get_data())
    answer.close()
    frames, size = shape_of(form, tmp_path / name)
    assert frames == {"still": 1, "sheet": 1}.get(form.shape, FRAMES)
    # A contact sheet: three pictures with two gaps of eight pixels.
    assert size == (3 * SIZE[0] + 16 if form.shape == "sheet" else SIZE[0], SIZE[1])
