"""Object and material masks after the open Cryptomatte specification 1.2 (J. Friedman, A. Jones, 2015-2018).

Each name is hashed by MurmurHash3 (32 bit), the hash read as a float; a pixel holds its ids by falling coverage, two to a
layer: red and green, blue and alpha. The manifest in the header gives the names back.
"""

from __future__ import annotations

import json
from typing import Any

import mmh3
import numpy as np
from numpy.typing import NDArray

from valleylight.core.film.film import Film

LAYERS = ("CryptoObject", "CryptoMaterial")


def id_bits(name: str) -> int:
    """The hash of a name, moved off the float exponents that mean zero, denormal, infinite or NaN."""
    value = int(mmh3.hash(name, 0, signed=False))
    exponent = value >> 23 & 255
    return value ^ (1 << 23) if exponent in (0, 255) else value


def id_float(name: str) -> np.float32:
    """The id of a name as it stands in the picture."""
    return np.array([id_bits(name)], np.uint32).view(np.float32)[0]


def layers(film: Film) -> tuple[dict[str, NDArray[np.float32]], dict[str, str]]:
    """Channels by name and header entries; both empty for a film without masks."""
    channels: dict[str, NDArray[np.float32]] = {}
    header: dict[str, str] = {}
    if not len(film.masks):
        return channels, header
    counts = np.maximum(film.counts, 1)[..., None]
    for which, layer in enumerate(LAYERS):
        names = [name or "unnamed" for name in film.mask_names[which]]
        ids = np.concatenate([[np.float32(0)], [id_float(n) for n in names]]).astype(np.float32)
        number, samples = film.masks[:, :, which, :, 0], film.masks[:, :, which, :, 1]
        order = np.argsort(-samples, axis=-1, kind="stable")
        number, samples = np.take_along_axis(number, order, -1), np.take_along_axis(samples, order, -1)
        coverage = (samples / counts).astype(np.float32)
        value = ids[np.minimum(number.astype(int), len(ids) - 1)]
        for rank in range(number.shape[-1]):
            pair = "RG" if rank % 2 == 0 else "BA"
            prefix = f"{layer}{rank // 2:02d}."
            channels[prefix + pair[0]] = np.ascontiguousarray(value[..., rank])
            channels[prefix + pair[1]] = np.ascontiguousarray(coverage[..., rank])
        key = f"cryptomatte/{id_bits(layer):08x}"[:19]
        header[f"{key}/name"] = layer
        header[f"{key}/hash"] = "MurmurHash3_32"
        header[f"{key}/conversion"] = "uint32_to_float32"
        # All names, not only those in this part of the picture: its header may be written before the rest.
        header[f"{key}/manifest"] = json.dumps({n: f"{id_bits(n):08x}" for n in dict.fromkeys(names)})
    return channels, header


def read_back(
    channels: dict[str, Any], header: dict[str, Any]
) -> tuple[NDArray[np.float32], tuple[tuple[str, ...], tuple[str, ...]]]:
    """Masks (H, W, 2, ranks, 2) of numbers and coverage as a film of one sample holds them, and the names that they number from 1;
    both empty where the picture has none."""
    both, named = [], []
    for layer in LAYERS:
        keys = sorted(k for k in channels if k.startswith(layer) and k[-1] in "RB")
        manifest = next((
            _text(header[f"{key[:-5]}/manifest"]) for key, value in header.items()
            if key.startswith("cryptomatte/") and key.endswith("/name") and _text(value) == layer
        ), None)  # fmt: skip
        if not keys or manifest is None:
            return np.zeros((0, 0, 2, len(keys) or 1, 2), np.float32), ((), ())
        names = {int(bits, 16): name for name, bits in json.loads(manifest).items()}
        known = np.array(sorted(names), np.uint32)
        ids = np.stack([np.ascontiguousarray(channels[k], np.float32).view(np.uint32) for k in keys], axis=-1)
        coverage = np.stack([channels[k[:-1] + ("G" if k[-1] == "R" else "A")] for k in keys], axis=-1)
        at = np.minimum(np.searchsorted(known, ids), max(len(known) - 1, 0))
        number = np.where(known[at] == ids, at + 1, 0) if len(known) else np.zeros(ids.shape)
        both.append(np.stack([number, np.where(number > 0, coverage, 0)], axis=-1))
        named.append(tuple(names[int(bits)] for bits in known))
    return np.stack(both, axis=2).astype(np.float32), (named[0], named[1])


def _text(value: Any) -> str:
    return value.decode() if isinstance(value, bytes) else str(value)


def mask_of(channels: dict[str, Any], layer: str, name: str) -> NDArray[np.float32]:
    """Coverage (H, W) of one name from the channels of a picture, by the specification's own reading."""
    wanted = np.array([id_bits(name)], np.uint32)[0]
    total: NDArray[np.float32] | None = None
    for key in sorted(channels):
        if key.startswith(layer) and key[-1] in "RB":
            ids = np.ascontiguousarray(channels[key], np.float32).view(np.uint32)
            coverage = np.asarray(channels[key[:-1] + ("G" if key[-1] == "R" else "A")], np.float32)
            part = np.where(ids == wanted, coverage, np.float32(0))
            total = part if total is None else total + part
    if total is None:
        raise KeyError(layer)
    return total
