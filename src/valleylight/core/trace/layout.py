"""The columns of the flat records that kernels read."""

from __future__ import annotations

#: A triangle: corner (0-2), edges (3-8), corner normals (9-17), uv (18-23), material (24), fixture + 1 (25).
TRIANGLE_WIDTH = 28
TRIANGLE_MATERIAL, TRIANGLE_FIXTURE = 24, 25

#: A material; its base colour stands in columns 0 to 2.
(ROUGH, METAL, COAT, INDEX, THIN, TINT, EMISSION, BASE_TEXTURE, RELIEF_TEXTURE, RELIEF, THROUGH, F0, LIT) = (
    3, 4, 5, 6, 7, 8, 11, 14, 15, 16, 17, 18, 19
)  # fmt: skip
MATERIAL_WIDTH = 20

#: Settings of a trace.
MAX_BOUNCES, CLAMP, SEED, GROUP_SUN, GROUP_SKY, GROUP_SURFACES, SUN_ON, SKY_ON, EMITTED_TOTAL, SOFTEN = range(10)
SETTINGS_WIDTH = 10

#: The camera: position, forward, right, up, half width, half height, shift x, shift y, lens radius, focus distance.
CAMERA_WIDTH = 18
