"""Materials of a glTF document as the tracer takes them, and how their pictures are laid."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, get_args

import numpy as np
import pygltflib
from numpy.typing import NDArray

from valleylight.core.errors import InputError
from valleylight.core.project.surface import LeafKind
from valleylight.core.stage.gltf.pictures import Pictures
from valleylight.core.stage.gltf.values import REMEDY, Notes, checked_number
from valleylight.core.stage.model import Material

#: A see-through colour that covers less than this is a pane.
SEEN_THROUGH = 0.99
LONGEST_NAME = 200
#: Specular reflectance at normal incidence from which a specular-glossiness material is a metal, and that of plain paint.
METALLIC, PLAIN_SPECULAR = 0.2, 0.04
_READ = frozenset((
    "KHR_materials_transmission", "KHR_materials_volume", "KHR_materials_ior", "KHR_materials_specular",
    "KHR_materials_clearcoat", "KHR_materials_sheen", "KHR_materials_emissive_strength", "KHR_materials_diffuse_transmission",
    "KHR_materials_unlit", "KHR_materials_pbrSpecularGlossiness", "KHR_materials_variants",
))  # fmt: skip
Rgb = tuple[float, float, float]


def _leaf_of(extras: Any) -> str | None:
    """The kind of leaf that a model of our own names in a material's extras; what is unknown is none."""
    named = extras.get("leaf") if isinstance(extras, dict) else None
    return named if named in get_args(LeafKind) else None


@dataclass(frozen=True)
class Laying:
    """How a material's pictures lie: the set of texture coordinates, and the 2 x 3 matrix they go through (KHR_texture_transform)."""

    uv_set: int = 0
    matrix: NDArray[np.float64] | None = None


class Materials:
    """Reads the materials of a document one by one; names are unique in the end."""

    def __init__(self, document: pygltflib.GLTF2, pictures: Pictures, file: str, notes: Notes) -> None:
        self._doc, self._pictures, self._file, self._notes = document, pictures, file, notes
        self._taken: set[str] = set()

    def all(self) -> tuple[list[Material], list[Laying]]:
        """Every material, and how its pictures lie; the last one stands for what has none."""
        made = [self.read(m, f"material {k}") for k, m in enumerate(self._doc.materials)]
        layings = [self._laying(m, made[k].name) for k, m in enumerate(self._doc.materials)]
        return [*made, Material(name=self._name(None, "placeholder"))], [*layings, Laying()]

    def read(self, source: Any, where: str) -> Material:
        """One material. Raises InputError for factors that are no numbers."""
        extensions = source.extensions or {}
        pbr = source.pbrMetallicRoughness or pygltflib.PbrMetallicRoughness()
        place = f"{self._file}, {where}"
        name = self._name(source.name, where)
        for left in sorted(set(extensions) - _READ):
            self._notes.add(f"{left} of material {name!r} was left out.")

        def number(value: Any, otherwise: float, most: float = 1.0, least: float = 0.0) -> float:
            return checked_number(value, otherwise, least, most, place)

        def block(extension: str) -> dict[str, Any]:
            held = extensions.get(f"KHR_materials_{extension}", {})
            if not isinstance(held, dict):
                raise InputError(f"KHR_materials_{extension} is no table", place, REMEDY)
            return held

        def colour_of(values: Any, otherwise: Rgb = (0.0, 0.0, 0.0), most: float = 1.0) -> Rgb:
            values = otherwise if values is None else values
            return number(values[0], 0.0, most), number(values[1], 0.0, most), number(values[2], 0.0, most)

        def factor(held: dict[str, Any], factor: str, picture: str, channel: int, what: str) -> float:
            """A factor with the mean of its picture."""
            mean = self._pictures.mean(held.get(picture), where)
            if mean is None:
                return number(held.get(factor), 0.0)
            self._notes.add(f"The picture of {what} of material {name!r} is taken as its mean.")
            return number(held.get(factor), 0.0) * float(mean[channel])

        glossy = block("pbrSpecularGlossiness")
        transmission = factor(
            block("transmission"), "transmissionFactor", "transmissionTexture", 0, "what it lets through"
        )
        volume, coat, sheen = block("volume"), block("clearcoat"), block("sheen")
        through = block("diffuse_transmission")
        strength = number(block("emissive_strength").get("emissiveStrength"), 1.0, 1e9)
        base = [number(v, 1.0) for v in (pbr.baseColorFactor or [1, 1, 1, 1])]
        roughness, metal = number(pbr.roughnessFactor, 1.0), number(pbr.metallicFactor, 1.0)
        specular = number(block("specular").get("specularFactor"), 1.0)
        base_picture, rough_picture = pbr.baseColorTexture, pbr.metallicRoughnessTexture
        if glossy:
            base, roughness, metal, specular = self._of_glossiness(glossy, number, name)
            base_picture, rough_picture = glossy.get("diffuseTexture"), None
        shines = colour_of(source.emissiveFactor, most=1e9)  # in cd/m2, with its strength
        opacity = base[3] if len(base) > 3 else 1.0
        # Many exporters of drawings write window panes as see-through colour: light would not get through paint.
        pane = source.alphaMode == "BLEND" and opacity < SEEN_THROUGH and transmission < 0.5
        if pane:
            self._notes.add(f"Material {name!r} is see-through in the file and was taken as thin glass.")
        glass = transmission >= 0.5 or pane
        if 0.0 < transmission < 0.5:
            self._notes.add(f"Material {name!r} lets less than half of light through and was taken as opaque.")
        solid = glass and not pane and number(volume.get("thicknessFactor"), 0.0, 1e9) > 0
        colour = (base[0], base[1], base[2])
        tint = colour_of(volume.get("attenuationColor"), (1.0, 1.0, 1.0)) if solid else colour
        if pane:
            red, green, blue = (1.0 - opacity * (1.0 - v) for v in colour)
            tint = red, green, blue
        back = through.get("diffuseTransmissionColorFactor")
        cut = source.alphaMode in ("MASK", "BLEND")
        if source.occlusionTexture is not None:
            self._notes.add("Pictures of occlusion were left out: shade is worked out from the model itself.")
        if "KHR_materials_unlit" in extensions:
            self._notes.add(f"Material {name!r} is drawn unlit in the file; here it is lit as everything.")
        return Material(
            name=name,
            base=(0.0, 0.0, 0.0) if glass else colour,
            roughness=0.0 if pane else roughness,
            metal=0.0 if pane else metal,
            specular=specular,
            index=number(block("ior").get("ior"), 1.5, 3.0, 1.0),
            thin_glass=glass and not solid,
            solid_glass=solid,
            tint=tint if glass else (1.0, 1.0, 1.0),
            tint_depth_m=number(volume.get("attenuationDistance"), 1000.0, 1000.0, 1e-6) if solid else 0.1,
            translucency=number(through.get("diffuseTransmissionFactor"), 0.0),
            through_tint=colour_of(back) if back else None,
            emission=(shines[0] * strength, shines[1] * strength, shines[2] * strength),
            emission_texture=self._pictures.texture(source.emissiveTexture, where) if max(shines) > 0 else -1,
            coat=factor(coat, "clearcoatFactor", "clearcoatTexture", 0, "the clear coat"),
            coat_roughness=number(coat.get("clearcoatRoughnessFactor"), 0.0),
            sheen=colour_of(sheen.get("sheenColorFactor")),
            sheen_roughness=number(sheen.get("sheenRoughnessFactor"), 0.3, 1.0, 0.05),
            base_texture=self._pictures.texture(base_picture, where),
            relief_texture=self._pictures.texture(source.normalTexture, where),
            relief=number(getattr(source.normalTexture, "scale", None), 1.0, 100.0, -100.0),
            rough_texture=self._pictures.texture(rough_picture, where),
            alpha_texture=self._pictures.texture(base_picture, where, alpha=True) if cut and not pane else -1,
            alpha_cutoff=number(source.alphaCutoff, 0.5, 1e9),
            leaf=_leaf_of(source.extras),
        )

    def _of_glossiness(self, held: dict[str, Any], number: Any, name: str) -> tuple[list[float], float, float, float]:
        """Base colour, roughness, metal and gloss of a specular-glossiness material: of strong specular colour, that is a metal's."""
        self._notes.add(
            f"Material {name!r} is given by specular and glossiness and was turned into roughness and metal."
        )
        base = [number(v, 1.0) for v in (held.get("diffuseFactor") or [1, 1, 1, 1])]
        specular = [number(v, 1.0) for v in (held.get("specularFactor") or [1, 1, 1])]
        roughness = 1.0 - number(held.get("glossinessFactor"), 1.0)
        if held.get("specularGlossinessTexture") is not None:
            self._notes.add(f"The picture of specular and glossiness of material {name!r} was left out.")
        if max(specular) > METALLIC and max(base[:3]) < max(specular):
            return [*specular, *base[3:4]], roughness, 1.0, 1.0
        return base, roughness, 0.0, min(max(specular) / PLAIN_SPECULAR, 1.0)

    def _laying(self, source: Any, name: str) -> Laying:
        """How the picture of the colour lies, else of what else there is; others that lie otherwise are named."""
        pbr = source.pbrMetallicRoughness or pygltflib.PbrMetallicRoughness()
        glossy = (source.extensions or {}).get("KHR_materials_pbrSpecularGlossiness")
        first = glossy.get("diffuseTexture") if isinstance(glossy, dict) else pbr.baseColorTexture
        others = (source.normalTexture, pbr.metallicRoughnessTexture, source.emissiveTexture)
        told = [_told(r) for r in (first, *others) if r is not None]
        if not told:
            return Laying()
        if any(other != told[0] for other in told[1:]):
            self._notes.add(
                f"Pictures of material {name!r} are laid in several ways; all are laid as that of its colour."
            )
        uv_set, offset, scale, rotation = told[0]
        if uv_set not in (0, 1):
            self._notes.add(f"Material {name!r} uses set {uv_set} of texture coordinates; the first was taken.")
            uv_set = 0
        if (offset, scale, rotation) == ((0.0, 0.0), (1.0, 1.0), 0.0):
            return Laying(uv_set)
        values = np.array([*offset, *scale, rotation], float)
        if not (np.abs(values) < 1e6).all():
            raise InputError("a picture is shifted or scaled beyond all numbers", f"{self._file}, {name}", REMEDY)
        # KHR_texture_transform: translation times rotation times scale.
        c, s = np.cos(rotation), np.sin(rotation)
        turn = np.array([[c, s], [-s, c]]) * np.array(scale)
        return Laying(uv_set, np.column_stack([turn, offset]))

    def _name(self, given: Any, otherwise: str) -> str:
        """A name of its own, without space around it and no longer than can be edited."""
        plain = (str(given).strip() if given else "")[:LONGEST_NAME].strip() or otherwise
        name, number = plain, 2
        while name in self._taken:
            name, number = f"{plain[: LONGEST_NAME - 8]} {number}", number + 1
        if name != plain:
            self._notes.add(f"Several materials are called {plain!r}; one of them is {name!r} here.")
        self._taken.add(name)
        return name


def _told(reference: Any) -> tuple[int, tuple[float, float], tuple[float, float], float]:
    """Set of texture coordinates, offset, scale and rotation of a reference to a texture."""
    held = (
        reference
        if isinstance(reference, dict)
        else {"texCoord": reference.texCoord, "extensions": reference.extensions}
    )
    transform = (held.get("extensions") or {}).get("KHR_texture_transform") or {}
    offset, scale = transform.get("offset") or (0.0, 0.0), transform.get("scale") or (1.0, 1.0)
    uv_set = transform.get("texCoord", held.get("texCoord"))
    return (
        int(uv_set or 0),
        (float(offset[0]), float(offset[1])),
        (float(scale[0]), float(scale[1])),
        float(transform.get("rotation") or 0.0),
    )
