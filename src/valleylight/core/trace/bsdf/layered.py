"""The layers that few materials have: clear coat, cloth sheen, measured metal, frosted glass.

Sources: A. Conty, C. Kulla, Production Friendly Microfacet Sheen BRDF, 2017, with
the visibility term of M. Ashikhmin, S. Premoze, 2007; I. Lazanyi, L. Szirmay-Kalos, Fresnel Term Approximations for
Metals, 2005. A layer takes from what lies under it the larger of its directional albedos towards light and viewer, which
is reciprocal and never makes energy.
"""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from valleylight.core.jit.compiled import kernel, part
from valleylight.core.trace.arrays import layout
from valleylight.core.trace.bsdf import surface
from valleylight.core.trace.bsdf.albedo import directional, of_gloss

F64 = np.float64
INV_PI = 0.3183098861837907
COAT_INDEX = 1.5
SHEEN_COSINES, SHEEN_ROUGHNESSES = 20, 12


def _tabulate_sheen() -> NDArray[np.float64]:
    """Directional albedo of the sheen lobe at colour 1: rows at even cosines, columns at even roughness."""
    t = (np.arange(48) + 0.5) / 48 * np.pi / 2
    p = (np.arange(48) + 0.5) / 48 * 2 * np.pi
    tt, pp = np.meshgrid(t, p, indexing="ij")
    i = np.stack([np.sin(tt) * np.cos(pp), np.sin(tt) * np.sin(pp), np.cos(tt)], -1)
    out = np.zeros((SHEEN_COSINES, SHEEN_ROUGHNESSES))
    for row in range(SHEEN_COSINES):
        mu = max(row / (SHEEN_COSINES - 1), 0.02)
        o = np.array([math.sqrt(1 - mu * mu), 0.0, mu])
        h = i + o
        h /= np.linalg.norm(h, axis=-1, keepdims=True)
        sine = np.sqrt(np.maximum(1 - h[..., 2] ** 2, 0))
        for column in range(SHEEN_ROUGHNESSES):
            alpha = max(column / (SHEEN_ROUGHNESSES - 1), 0.05) ** 2
            d = (2 + 1 / alpha) * sine ** (1 / alpha) / (2 * np.pi)
            v = 1 / (4 * (i[..., 2] + mu - i[..., 2] * mu))
            out[row, column] = (d * v * i[..., 2] * np.sin(tt)).sum() * (np.pi / 2 / 48) * (2 * np.pi / 48)
    return np.minimum(out, 1.0)


SHEEN_TABLE = _tabulate_sheen()


@part
def sheen_albedo(roughness, cosine):
    """Share of light that the sheen lobe of colour 1 reflects in all, seen under `cosine`."""
    x = min(max(cosine, 0.0), 1.0) * (SHEEN_COSINES - 1)
    y = min(max(roughness, 0.0), 1.0) * (SHEEN_ROUGHNESSES - 1)
    i, j = min(int(x), SHEEN_COSINES - 2), min(int(y), SHEEN_ROUGHNESSES - 2)
    s, t = x - i, y - j
    return (1 - s) * ((1 - t) * SHEEN_TABLE[i, j] + t * SHEEN_TABLE[i, j + 1]) + s * (
        (1 - t) * SHEEN_TABLE[i + 1, j] + t * SHEEN_TABLE[i + 1, j + 1]
    )


@part
def clear_share(materials, m, cosine):
    """Probability of choosing the clear coat seen under `cosine`."""
    c = F64(materials[m, layout.CLEAR])
    if c <= 0.0:
        return 0.0
    return min(max(c * surface.dielectric(max(cosine, 0.0), COAT_INDEX), 0.1), 0.9)


@part
def clear_alpha(materials, m):
    """Roughness alpha of the clear coat: 0 for a perfect mirror, else wide enough to be drawn and weighed."""
    rough = F64(materials[m, layout.CLEAR_ROUGH])
    return max(rough * rough, surface.LEAST_ALPHA) if rough > 0.0 else 0.0


@kernel
def facets(alpha, nx, ny, nz, ox, oy, oz, ix, iy, iz, ci, co):
    """GGX: D V cos of the pair (V the masking over 4 ci co), density of visible normals, cosine o h."""
    hx, hy, hz = ix + ox, iy + oy, iz + oz
    s = 1.0 / math.sqrt(hx * hx + hy * hy + hz * hz + 1e-20)
    hx, hy, hz = hx * s, hy * s, hz * s
    d = surface.ggx_density(alpha, nx * hx + ny * hy + nz * hz)
    so, si = surface._smith(alpha, co), surface._smith(alpha, ci)
    return d * 0.5 / (co * si + ci * so + 1e-12) * ci, d * 0.5 / (co + so), ox * hx + oy * hy + oz * hz


@kernel
def frosted(materials, paint, nx, ny, nz, ox, oy, oz, ix, iy, iz):
    """Frosted pane: GGX reflection, and the same lobe turned through the pane for what it passes; the paint's
    `share` is the probability of reflecting. BSDF times cosine (r, g, b) and density."""
    m, alpha, share = int(paint.material), paint.alpha, paint.share
    ci, co = nx * ix + ny * iy + nz * iz, nx * ox + ny * oy + nz * oz
    if co <= 1e-5 or abs(ci) <= 1e-6:
        return 0.0, 0.0, 0.0, 0.0
    through = ci < 0.0
    if through:
        ix, iy, iz, ci = ix - 2 * ci * nx, iy - 2 * ci * ny, iz - 2 * ci * nz, -ci
    w, density, oh = facets(alpha, nx, ny, nz, ox, oy, oz, ix, iy, iz, ci, co)
    reflected, _ = surface.pane(max(oh, 1e-3), F64(materials[m, layout.INDEX]))
    # What single scattering between facets loses is given back.
    a, b = directional(alpha, co)
    w /= max(a + b, 0.2)
    if not through:
        return w * reflected, w * reflected, w * reflected, share * density
    w *= 1.0 - reflected
    t = layout.TINT
    return w * materials[m, t], w * materials[m, t + 1], w * materials[m, t + 2], (1.0 - share) * density


@part
def over(materials, paint, base, nx, ny, nz, ox, oy, oz, ix, iy, iz):
    """What the layers of a material make of its `base`, BSDF times cosine (r, g, b) and density as `surface.evaluate` gives them."""
    r, g, b, density = base
    br, bg, bb, alpha, metal, _, _, _, share, _, _, _, clear, material = paint
    m = int(material)
    ci, co = nx * ix + ny * iy + nz * iz, nx * ox + ny * oy + nz * oz
    if co <= 1e-5 or abs(ci) <= 1e-6 or (ci < 0.0 and r + g + b <= 0.0):
        return 0.0, 0.0, 0.0, 0.0
    t = materials
    if ci < 0.0:
        if t[m, layout.BACK] >= 0.0:
            k = (r + g + b) / max(br + bg + bb, 1e-6)
            e = layout.BACK
            r, g, b = k * F64(t[m, e]), k * F64(t[m, e + 1]), k * F64(t[m, e + 2])
        ci = -ci
    else:
        e = layout.EDGE
        if metal > 0.0 and share > 0.0 and t[m, e] + t[m, e + 1] + t[m, e + 2] != 0.0:
            w, _, oh = facets(alpha, nx, ny, nz, ox, oy, oz, ix, iy, iz, ci, co)
            k = w * metal * oh * (1.0 - oh) ** 6
            r = max(r - k * t[m, e], 0.0)
            g = max(g - k * t[m, e + 1], 0.0)
            b = max(b - k * t[m, e + 2], 0.0)
        s = layout.SHEEN
        most = max(max(t[m, s], t[m, s + 1]), t[m, s + 2])
        if most > 0.0:
            rough = F64(t[m, layout.SHEEN_ROUGH])
            kept = 1.0 - most * max(sheen_albedo(rough, co), sheen_albedo(rough, ci))
            hx, hy, hz = ix + ox, iy + oy, iz + oz
            scale = 1.0 / math.sqrt(hx * hx + hy * hy + hz * hz + 1e-20)
            nh = (nx * hx + ny * hy + nz * hz) * scale
            sharp = 1.0 / (rough * rough)
            d = (2.0 + sharp) * math.sqrt(max(1.0 - nh * nh, 0.0)) ** sharp * 0.5 * INV_PI
            k = d / (4.0 * (ci + co - ci * co) + 1e-6) * ci
            r, g, b = r * kept + k * t[m, s], g * kept + k * t[m, s + 1], b * kept + k * t[m, s + 2]
    c = F64(t[m, layout.CLEAR])
    if c > 0.0:
        ac = clear_alpha(t, m)
        kept = 1.0 - c * max(of_gloss(ac, COAT_INDEX, co), of_gloss(ac, COAT_INDEX, ci))
        r, g, b, density = r * kept, g * kept, b * kept, density * (1.0 - clear)
        if nx * ix + ny * iy + nz * iz > 0.0 and ac > 0.0:
            w, d, oh = facets(ac, nx, ny, nz, ox, oy, oz, ix, iy, iz, ci, co)
            w *= c * surface.dielectric(min(max(oh, 0.0), 1.0), COAT_INDEX)
            r, g, b, density = r + w, g + w, b + w, density + clear * d
    return r, g, b, density


@kernel
def mirror_weight(materials, paint, by_clear, cosine):
    """Factor of light (r, g, b) that a layer reflects as a perfect mirror, over the chance of having chosen it: the clear coat
    (`by_clear`) or the gloss or metal below."""
    br, bg, bb, _, metal, gloss, index, _, share, _, lost, kind, clear, material = paint
    m = int(material)
    if by_clear:
        w = F64(materials[m, layout.CLEAR]) * surface.dielectric(cosine, COAT_INDEX) / clear
        return w, w, w
    r, g, b = surface.reflected(br, bg, bb, metal, gloss, index, lost, cosine)
    w = 1.0 / max(share, 1e-9)
    if kind >= 0.0:
        t, e, s = materials, layout.EDGE, layout.SHEEN
        k = metal * cosine * (1.0 - cosine) ** 6
        r, g, b = max(r - k * t[m, e], 0.0), max(g - k * t[m, e + 1], 0.0), max(b - k * t[m, e + 2], 0.0)
        most = max(max(t[m, s], t[m, s + 1]), t[m, s + 2])
        if most > 0.0:
            w *= 1.0 - most * sheen_albedo(F64(t[m, layout.SHEEN_ROUGH]), cosine)
        c = F64(t[m, layout.CLEAR])
        if c > 0.0:
            w *= (1.0 - c * of_gloss(clear_alpha(t, m), COAT_INDEX, cosine)) / (1.0 - clear)
    return r * w, g * w, b * w
