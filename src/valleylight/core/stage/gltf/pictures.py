"""Pictures of a glTF document as textures: decoded within a budget, 8 bits a channel."""

from __future__ import annotations

import io
from typing import Any

import numpy as np
import pygltflib
from numpy.typing import NDArray
from PIL import Image, UnidentifiedImageError

from valleylight.core.colour.rgb import srgb_decode
from valleylight.core.errors import InputError
from valleylight.core.stage.gltf.buffers import Buffers
from valleylight.core.stage.gltf.values import REMEDY, Notes, item_at, of_data_uri
from valleylight.core.stage.model import Texture

LARGEST_TEXTURE = 4096
#: What the pictures of one model may hold in all.
MOST_PIXELS = 600_000_000


class Pictures:
    """The textures of a model in the order in which they were asked for."""

    def __init__(self, document: pygltflib.GLTF2, buffers: Buffers, file: str, notes: Notes) -> None:
        self._doc, self._buffers, self._file, self._notes = document, buffers, file, notes
        self.textures: list[Texture] = []
        self._number: dict[tuple[int, bool], int] = {}
        self._pixels_left = MOST_PIXELS

    def texture(self, reference: Any, where: str, alpha: bool = False) -> int:
        """Number of a texture, or of its alpha as a grey one; -1 where there is none."""
        source = self._source(reference, where)
        if source is None:
            return -1
        key = (source, alpha)
        if key not in self._number:
            coded = self._coded(source, where)
            shown = None if coded is None else self._decoded(coded, source, where, alpha)
            self._number[key] = -1 if shown is None else self.added(shown)
        return self._number[key]

    def mean(self, reference: Any, where: str, coded: bool = False) -> NDArray[np.float64] | None:
        """Mean of a picture (3,), of its linear values where it is `coded` in sRGB; None where there is none. It is not kept."""
        source = self._source(reference, where)
        held = None if source is None else self._coded(source, where)
        if source is None or held is None:
            return None
        pixels = self._decoded(held, source, where, False)
        assert pixels is not None
        values = pixels[::2, ::2] / 255.0
        return np.asarray((srgb_decode(values) if coded else values).mean((0, 1)))

    def added(self, pixels: NDArray[np.uint8]) -> int:
        """Number of a texture made here."""
        self.textures.append(Texture(np.ascontiguousarray(pixels)))
        return len(self.textures) - 1

    def _source(self, reference: Any, where: str) -> int | None:
        index = reference.get("index") if isinstance(reference, dict) else getattr(reference, "index", None)
        if index is None:
            return None
        texture = self._doc.textures[item_at(self._doc.textures, index, f"{self._file}, texture of {where}")]
        webp = (texture.extensions or {}).get("EXT_texture_webp")
        source = webp.get("source") if isinstance(webp, dict) else texture.source
        if source is None:
            if texture.extensions:
                kinds = ", ".join(sorted(texture.extensions))
                self._notes.add(f"A picture of {where} is packed as {kinds} and was left out.")
            return None
        return item_at(self._doc.images, source, f"{self._file}, {where}")

    def _coded(self, source: int, where: str) -> bytes | None:
        image = self._doc.images[source]
        if image.bufferView is not None:
            return self._buffers.view(image.bufferView, f"{self._file}, {where}")
        if (image.uri or "").startswith("data:"):
            return of_data_uri(image.uri, f"{self._file}, {where}")
        self._notes.add(f"The texture of {where} lies outside the file and was left out.")
        return None

    def _decoded(self, coded: bytes, source: int, where: str, alpha: bool) -> NDArray[np.uint8] | None:
        """Pixels (H, W, 3); None for an alpha that cuts nothing out."""
        try:
            picture: Image.Image = Image.open(io.BytesIO(coded))
            self._pixels_left -= picture.width * picture.height
            if self._pixels_left < 0:
                raise InputError(
                    f"its pictures hold more than {MOST_PIXELS // 10**6} million pixels", f"{self._file}, {where}",
                    f"Make them smaller: {LARGEST_TEXTURE} pixels a side are used at most",
                )  # fmt: skip
            picture.draft("RGB", (LARGEST_TEXTURE, LARGEST_TEXTURE))
            picture.load()
        except (UnidentifiedImageError, OSError, ValueError, SyntaxError, Image.DecompressionBombError) as error:
            if isinstance(error, InputError):
                raise
            raise InputError(f"image {source} cannot be read", f"{self._file}, {where}", REMEDY) from error
        if picture.mode.startswith("I"):  # 16 bits of grey, which Pillow would clip at 8
            grey = np.asarray(picture).astype(np.float64) / 65535.0
            picture = Image.fromarray(np.round(np.clip(grey, 0, 1) * 255).astype(np.uint8), "L")
        if max(picture.size) > LARGEST_TEXTURE:
            picture.thumbnail((LARGEST_TEXTURE, LARGEST_TEXTURE))
        if alpha:
            if "A" not in picture.getbands() and "transparency" not in picture.info:
                return None
            cut = np.asarray(picture.convert("RGBA").getchannel("A"))
            return None if cut.min() == 255 else np.repeat(cut[..., None], 3, axis=2)
        return np.asarray(picture.convert("RGB"))
