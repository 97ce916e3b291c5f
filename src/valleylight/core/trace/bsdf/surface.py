"""How a surface scatters light: a diffuse base under a rough dielectric gloss, mixed with metal; and thin glass.

Sources: B. Walter et al., Microfacet Models for Refraction through Rough Surfaces, 2007 (GGX); E. Heitz, Understanding
the Masking-Shadowing Function, JCGT 3 (2), 2014 (height-correlated G2); E. Heitz, Sampling the GGX Distribution of
Visible Normals, JCGT 7 (4), 2018; A. Fresnel's equations (M. Born, E. Wolf, Principles of Optics, 1.5.2) for a gloss; C. Schlick, An
Inexpensive BRDF Model, 1994, for metals; C. Kelemen, L. Szirmay-Kalos, A
Microfacet Based Coupled Specular-Matte BRDF Model, 2001 (diffuse base that keeps energy under its gloss); J. Portsmouth,
P. Kutz, S. Hill, EON: A Practical Energy-Preserving Rough Diffuse BRDF, JCGT 14 (1), 2025, after M. Oren, S. Nayar, 1994 and
Y. Fujii's form (rough matt base).
Vectors point away from the surface; `n` is the shading normal on the side of `wo`.
"""

from __future__ import annotations

import math

from valleylight.core.jit.compiled import kernel, part
from valleylight.core.jit.fast import sincos_turns
from valleylight.core.trace.bsdf.albedo import of_gloss

INV_PI = 0.3183098861837907
#: A lobe narrower than this (alpha) is not told from it; 0 is a perfect mirror, drawn and weighed by itself.
LEAST_ALPHA = 0.002


@part
def dielectric(cosine, index):
    """Exact Fresnel reflectance of unpolarised light entering a dielectric of relative index > 1."""
    s2 = (1.0 - cosine * cosine) / (index * index)
    ct = math.sqrt(max(1.0 - s2, 0.0))
    a = (cosine - index * ct) / (cosine + index * ct)
    b = (ct - index * cosine) / (ct + index * cosine)
    return 0.5 * (a * a + b * b)


@part
def pane(cosine, index):
    """Reflectance of a thin parallel pane with all inner reflections, R = 2 F / (1 + F), and the cosine inside."""
    f = dielectric(cosine, index)
    inside = math.sqrt(max(1.0 - (1.0 - cosine * cosine) / (index * index), 1e-6))
    return 2.0 * f / (1.0 + f), inside


@part
def ggx_density(alpha, nh):
    """D(h) of GGX."""
    a2 = alpha * alpha
    d = nh * nh * (a2 - 1.0) + 1.0
    return a2 * INV_PI / (d * d)


@part
def _smith(alpha, c):
    """Lambda-free helper: sqrt(alpha^2 + (1 - alpha^2) c^2)."""
    a2 = alpha * alpha
    return math.sqrt(a2 + (1.0 - a2) * c * c)


@part
def specular_share(br, bg, bb, metal, gloss, index, cosine):
    """Probability of choosing the gloss or metal lobe seen under `cosine`."""
    rs = gloss * dielectric(max(cosine, 0.0), index)
    lum = 0.2126 * br + 0.7152 * bg + 0.0722 * bb
    spec = (1.0 - metal) * rs + metal * (lum + (1.0 - lum) * (1.0 - cosine) ** 5)
    diff = (1.0 - metal) * lum * (1.0 - rs)
    total = spec + diff
    if total <= 0.0:
        return 0.0
    share = spec / total
    if 0.0 < share < 0.1 and gloss > 0.0:
        return 0.1
    return share


@part
def _flat_albedo(r, mu):
    """Directional albedo of the single-scattering rough matt lobe at reflectance 1 (EON, its polynomial of eq. 14, within 7e-4)."""
    c = 1.0 - mu
    g = c * (0.0571085289 + c * (0.491881867 + c * (-0.332181442 + c * 0.0714429953)))
    return (1.0 + r * g) / (1.0 + 0.2877934092 * r)  # 1/2 - 2 / (3 pi)


@part
def rough_matt(r, ci, co, io):
    """The BRDF of a rough matt base of roughness r as rho A + rho^2 B / (1 - rho C) for each reflectance rho: A, B, C. The second
    part is what scatters between facets; `io` is the cosine between the two directions."""
    a = 1.0 / (1.0 + 0.2877934092 * r)
    s = io - ci * co
    t = max(ci, co) if s > 0.0 else 1.0
    mean = a * (1.0 + 0.0723337 * r)  # 2/3 - 28 / (15 pi)
    lost = max(1.0 - mean, 1e-7)
    many = max(1.0 - _flat_albedo(r, co), 0.0) * max(1.0 - _flat_albedo(r, ci), 0.0) * mean / lost
    return INV_PI * a * (1.0 + r * s / t), INV_PI * many, lost


@part
def evaluate(paint, rough, nx, ny, nz, ox, oy, oz, ix, iy, iz):
    """BSDF times cosine (r, g, b) and sampling density of a `Paint` for light along `i` seen from `o`; `rough` is the roughness of its
    matt base."""
    br, bg, bb, alpha, metal, gloss, index, through, share, under, lost, _, _, _ = paint
    ci = nx * ix + ny * iy + nz * iz
    co = nx * ox + ny * oy + nz * oz
    if co <= 1e-5:
        return 0.0, 0.0, 0.0, 0.0
    if ci < 0.0 and through <= 0.0:
        return 0.0, 0.0, 0.0, 0.0
    if abs(ci) <= 1e-6:
        return 0.0, 0.0, 0.0, 0.0
    k = 0.0
    if metal < 1.0:
        k = (1.0 - metal) * under * (1.0 - gloss * of_gloss(alpha, index, abs(ci))) * abs(ci)
    if ci < 0.0:
        k *= through * INV_PI
        return br * k, bg * k, bb * k, (1.0 - share) * through * INV_PI * -ci
    k *= 1.0 - through
    if rough > 0.0:
        once, many, again = rough_matt(rough, ci, co, ox * ix + oy * iy + oz * iz)
        r = k * br * (once + br * many / (1.0 - br * again))
        g = k * bg * (once + bg * many / (1.0 - bg * again))
        b = k * bb * (once + bb * many / (1.0 - bb * again))
    else:
        k *= INV_PI
        r, g, b = br * k, bg * k, bb * k
    density = (1.0 - share) * (1.0 - through) * INV_PI * ci
    if share > 0.0 and alpha > 0.0:  # a perfect mirror sends light one way only, see `reflected`
        hx, hy, hz = ix + ox, iy + oy, iz + oz
        length = 1.0 / math.sqrt(hx * hx + hy * hy + hz * hz + 1e-20)
        hx, hy, hz = hx * length, hy * length, hz * length
        nh = nx * hx + ny * hy + nz * hz
        oh = ox * hx + oy * hy + oz * hz
        d = ggx_density(alpha, nh)
        so, si = _smith(alpha, co), _smith(alpha, ci)
        visible = 0.5 / (co * si + ci * so + 1e-12)  # G2 / (4 co ci)
        c5 = (1.0 - oh) ** 5
        rs = gloss * dielectric(min(max(oh, 0.0), 1.0), index) * (1.0 - metal)
        w = d * visible * ci
        r += w * (rs + metal * (br + (1.0 - br) * c5) * (1.0 + br * lost))
        g += w * (rs + metal * (bg + (1.0 - bg) * c5) * (1.0 + bg * lost))
        b += w * (rs + metal * (bb + (1.0 - bb) * c5) * (1.0 + bb * lost))
        # visible normals: G1(o) D / (4 co), G1 = 2 co / (co + so)
        density += share * d * 0.5 / (co + so)
    return r, g, b, density


@part
def reflected(br, bg, bb, metal, gloss, index, lost, cosine):
    """What a perfectly smooth gloss or metal reflects at a cosine (r, g, b)."""
    c5 = (1.0 - cosine) ** 5
    rs = gloss * dielectric(cosine, index) * (1.0 - metal)
    return (
        rs + metal * (br + (1.0 - br) * c5) * (1.0 + br * lost),
        rs + metal * (bg + (1.0 - bg) * c5) * (1.0 + bg * lost),
        rs + metal * (bb + (1.0 - bb) * c5) * (1.0 + bb * lost),
    )


@kernel
def sample_visible_normal(alpha, vx, vy, vz, u, v):
    """Half vector of GGX in the local frame (z the normal) among those visible from (vx, vy, vz), vz > 0."""
    x, y, z = alpha * vx, alpha * vy, vz
    s = 1.0 / math.sqrt(x * x + y * y + z * z)
    x, y, z = x * s, y * s, z * s
    flat = x * x + y * y
    if flat > 1e-14:
        k = 1.0 / math.sqrt(flat)
        t1x, t1y, t1z = -y * k, x * k, 0.0
    else:
        t1x, t1y, t1z = 1.0, 0.0, 0.0
    t2x, t2y, t2z = y * t1z - z * t1y, z * t1x - x * t1z, x * t1y - y * t1x
    radius = math.sqrt(u)
    sine, cosine = sincos_turns(v)
    p1, p2 = radius * cosine, radius * sine
    blend = 0.5 * (1.0 + z)
    p2 = (1.0 - blend) * math.sqrt(max(1.0 - p1 * p1, 0.0)) + blend * p2
    p3 = math.sqrt(max(1.0 - p1 * p1 - p2 * p2, 0.0))
    hx = alpha * (p1 * t1x + p2 * t2x + p3 * x)
    hy = alpha * (p1 * t1y + p2 * t2y + p3 * y)
    hz = max(p1 * t1z + p2 * t2z + p3 * z, 1e-7)
    s = 1.0 / math.sqrt(hx * hx + hy * hy + hz * hz)
    return hx * s, hy * s, hz * s
