"""Import of glTF 2.0 binary models.

Source: Khronos glTF 2.0 specification and the extensions KHR_materials_transmission, _volume, _ior, _specular, _clearcoat, _sheen,
_emissive_strength, _diffuse_transmission, _unlit and _pbrSpecularGlossiness, KHR_texture_transform, KHR_mesh_quantization,
EXT_texture_webp and EXT_mesh_gpu_instancing. glTF is Y up and metres; the stage is Z up and metres.
Node extras `layer` (text) and `opening` (centre, half_u, half_v, inward) are read where a model carries them. What cannot be shown is
named in the notes of the stage.
"""

from valleylight.core.stage.gltf.reader import read_glb

__all__ = ["read_glb"]
