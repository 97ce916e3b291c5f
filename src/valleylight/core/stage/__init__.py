"""What stands in front of the lens: import, meshes and materials."""

from valleylight.core.stage.gltf import read_glb
from valleylight.core.stage.model import Material, Mesh, Placement, StageData, Texture, merge

__all__ = ["Material", "Mesh", "Placement", "StageData", "Texture", "merge", "read_glb"]
