"""What stands in front of the lens: import, meshes and materials."""

from valleylight.core.stage.assembly import assembled
from valleylight.core.stage.gltf import read_glb
from valleylight.core.stage.model import Material, Mesh, MeshInstance, StageData, Texture

__all__ = ["Material", "Mesh", "MeshInstance", "StageData", "Texture", "assembled", "read_glb"]
