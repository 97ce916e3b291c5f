"""How much a rough GGX surface reflects in all, from one direction: what is left for the layer under a gloss.

Metals have Schlick's Fresnel term, with which the directional albedo is linear in the reflectance at normal incidence,
E(mu, roughness) = f0 A + B. A gloss has Fresnel's own formula, and E(mu, roughness, index). All are tabulated by quadrature over visible
normals (E. Heitz, Sampling the GGX Distribution of Visible Normals, JCGT 7 (4), 2018): every sample weighs G2 / G1 times the
Fresnel term.
Light lost between facets is given back to metals by scaling with 1 + f0 (1 - E) / E at f0 = 1 (C. Kulla, A. Conty,
Revisiting Physically Based Shading, 2017; E. Turquin, Practical multiple scattering compensation, 2019).
"""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from valleylight.core.jit.compiled import part

COSINES, ROUGHNESSES, SAMPLES = 24, 16, 48
#: Indices are spaced evenly in (n - 1) / (n + 1) up to this, an index of 3; cosines at a facet fall into so many classes.
INDICES, MOST_AMPLITUDE, CLASSES = 11, 0.5, 512


def _reflectances() -> NDArray[np.float64]:
    """Fresnel reflectance (CLASSES, INDICES) of unpolarised light at cosines (k + 1/2) / CLASSES."""
    c = ((np.arange(CLASSES) + 0.5) / CLASSES)[:, None]
    amplitude = np.linspace(0, MOST_AMPLITUDE, INDICES)
    n = (1 + amplitude) / (1 - amplitude)
    inside = np.sqrt(1 - (1 - c * c) / (n * n))
    return 0.5 * (((c - n * inside) / (c + n * inside)) ** 2 + ((inside - n * c) / (inside + n * c)) ** 2)


def _tabulate() -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Tables (COSINES, ROUGHNESSES, 2) of A and B, and (COSINES, ROUGHNESSES, INDICES) of E for a gloss; rows at cosines
    (k / (COSINES - 1))^2, columns at even roughness."""
    table, gloss = np.zeros((COSINES, ROUGHNESSES, 2)), np.zeros((COSINES, ROUGHNESSES, INDICES))
    fresnel = _reflectances()
    u, v = np.meshgrid((np.arange(SAMPLES) + 0.5) / SAMPLES, (np.arange(SAMPLES) + 0.5) / SAMPLES)
    radius, phi = np.sqrt(u), 2 * np.pi * v
    for row in range(COSINES):
        mu = max((row / (COSINES - 1)) ** 2, 1e-3)
        o = np.array([math.sqrt(1 - mu * mu), 0.0, mu])
        for column in range(ROUGHNESSES):
            alpha = max((column / (ROUGHNESSES - 1)) ** 2, 0.002)
            s = np.array([alpha * o[0], 0.0, o[2]])
            s /= np.linalg.norm(s)
            t1 = np.array([0.0, 1.0, 0.0])
            t2 = np.cross(s, t1)
            p1, p2 = radius * np.cos(phi), radius * np.sin(phi)
            blend = 0.5 * (1 + s[2])
            p2 = (1 - blend) * np.sqrt(np.maximum(1 - p1 * p1, 0)) + blend * p2
            p3 = np.sqrt(np.maximum(1 - p1 * p1 - p2 * p2, 0))
            h = p1[..., None] * t1 + p2[..., None] * t2 + p3[..., None] * s
            h *= np.array([alpha, alpha, 1.0])
            h /= np.linalg.norm(h, axis=-1, keepdims=True)
            oh = h @ o
            ci = 2 * oh * h[..., 2] - mu
            so = math.sqrt(alpha**2 + (1 - alpha**2) * mu * mu)
            si = np.sqrt(alpha**2 + (1 - alpha**2) * ci * ci)
            # G2 / G1(o) = ci (mu + so) / (mu si + ci so)
            share = np.where(ci > 0, ci * (mu + so) / (mu * si + np.maximum(ci, 0) * so + 1e-12), 0.0)
            fifth = np.clip(1 - oh, 0, 1) ** 5
            table[row, column] = (share * (1 - fifth)).mean(), (share * fifth).mean()
            classes = np.minimum((np.clip(oh, 0, 1) * CLASSES).astype(int), CLASSES - 1)
            gloss[row, column] = np.bincount(classes.ravel(), share.ravel(), CLASSES) @ fresnel / SAMPLES**2
    return table, gloss


TABLE, GLOSS = _tabulate()
_ROWS = (np.arange(COSINES) / (COSINES - 1)) ** 2
#: Cosine-weighted mean of E of a gloss over the hemisphere, 2 integral of E mu dmu; (ROUGHNESSES, INDICES).
MEANS: NDArray[np.float64] = np.asarray(np.trapezoid(2 * GLOSS * _ROWS[:, None, None], _ROWS, axis=0))


@part
def directional(alpha, cosine):
    """A and B at a cosine for a roughness given as alpha, bilinear in the table."""
    x = math.sqrt(min(max(cosine, 0.0), 1.0)) * (COSINES - 1)
    y = math.sqrt(min(max(alpha, 0.0), 1.0)) * (ROUGHNESSES - 1)
    i, j = min(int(x), COSINES - 2), min(int(y), ROUGHNESSES - 2)
    s, t = x - i, y - j
    w00, w01, w10, w11 = (1 - s) * (1 - t), (1 - s) * t, s * (1 - t), s * t
    return (
        w00 * TABLE[i, j, 0] + w01 * TABLE[i, j + 1, 0] + w10 * TABLE[i + 1, j, 0] + w11 * TABLE[i + 1, j + 1, 0],
        w00 * TABLE[i, j, 1] + w01 * TABLE[i, j + 1, 1] + w10 * TABLE[i + 1, j, 1] + w11 * TABLE[i + 1, j + 1, 1],
    )


@part
def between_indices(index):
    """Place of a refractive index in the table: the index below, and the share of the next one, linear in the reflectance at normal
    incidence."""
    z = min(max((index - 1.0) / (index + 1.0), 0.0), MOST_AMPLITUDE) * ((INDICES - 1) / MOST_AMPLITUDE)
    k = min(int(z), INDICES - 2)
    return k, (z * z - k * k) / (2.0 * k + 1.0)


@part
def of_gloss(alpha, index, cosine):
    """Share of light that a gloss of refractive index `index` reflects in all at a cosine."""
    x = math.sqrt(min(max(cosine, 0.0), 1.0)) * (COSINES - 1)
    y = math.sqrt(min(max(alpha, 0.0), 1.0)) * (ROUGHNESSES - 1)
    k, w = between_indices(index)
    i, j = min(int(x), COSINES - 2), min(int(y), ROUGHNESSES - 2)
    s, t = x - i, y - j
    near = (1 - s) * ((1 - t) * GLOSS[i, j, k] + t * GLOSS[i, j + 1, k])
    near += s * ((1 - t) * GLOSS[i + 1, j, k] + t * GLOSS[i + 1, j + 1, k])
    far = (1 - s) * ((1 - t) * GLOSS[i, j, k + 1] + t * GLOSS[i, j + 1, k + 1])
    far += s * ((1 - t) * GLOSS[i + 1, j, k + 1] + t * GLOSS[i + 1, j + 1, k + 1])
    return (1 - w) * near + w * far


@part
def seen_from(alpha, gloss, index, cosine):
    """For a vertex seen under `cosine`: what reaches the base under a gloss, (1 - E(o)) / (1 - mean E), and what single scattering
    between facets loses, (1 - E) / E of a perfect mirror."""
    a, b = directional(alpha, cosine)
    y = math.sqrt(min(max(alpha, 0.0), 1.0)) * (ROUGHNESSES - 1)
    k, w = between_indices(index)
    j = min(int(y), ROUGHNESSES - 2)
    t = y - j
    mean = (1 - w) * ((1 - t) * MEANS[j, k] + t * MEANS[j + 1, k]) + w * (
        (1 - t) * MEANS[j, k + 1] + t * MEANS[j + 1, k + 1]
    )
    whole = max(a + b, 0.05)
    return (1.0 - gloss * of_gloss(alpha, index, cosine)) / (1.0 - gloss * mean), (1.0 - whole) / whole
