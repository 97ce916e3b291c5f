"""Random numbers for pixels: Owen-scrambled Sobol points, hashed from pixel, sample and dimension.

Sources: B. Burley, Practical Hash-based Owen Scrambling, Journal of Computer Graphics Techniques 9 (4), 2020, with the
constants of N. Vegdahl (2021); the second Sobol dimension as the Pascal matrix modulo 2, H. Faure, S. Tezuka, Another
random scrambling of digital (t, s)-sequences, 2002. Mappings: P. Shirley, K. Chiu, A Low Distortion Map Between Disk
and Square, 1997; T. Duff et al., Building an Orthonormal Basis, Revisited, 2017.
"""

from __future__ import annotations

import math

import numpy as np

from valleylight.core.jit.compiled import kernel, part
from valleylight.core.jit.fast import small_sincos

U32 = np.uint32
_SCALE = 1.0 / 4294967296.0


@part
def hash32(value):
    """A 32-bit integer hash of good avalanche (C. Wellons, lowbias32)."""
    x = U32(value)
    x = U32(x ^ (x >> U32(16)))
    x = U32(x * U32(0x7FEB352D))
    x = U32(x ^ (x >> U32(15)))
    x = U32(x * U32(0x846CA68B))
    return U32(x ^ (x >> U32(16)))


@part
def _reverse(value):
    x = U32(value)
    x = U32((x << U32(16)) | (x >> U32(16)))
    x = U32(((x & U32(0x00FF00FF)) << U32(8)) | ((x & U32(0xFF00FF00)) >> U32(8)))
    x = U32(((x & U32(0x0F0F0F0F)) << U32(4)) | ((x & U32(0xF0F0F0F0)) >> U32(4)))
    x = U32(((x & U32(0x33333333)) << U32(2)) | ((x & U32(0xCCCCCCCC)) >> U32(2)))
    return U32(((x & U32(0x55555555)) << U32(1)) | ((x & U32(0xAAAAAAAA)) >> U32(1)))


@part
def _scramble(value, seed):
    """Laine-Karras permutation: an Owen scramble of bit-reversed numbers."""
    x = U32(value)
    x = U32(x ^ U32(x * U32(0x3D20ADEA)))
    x = U32(x + seed)
    x = U32(x * U32((seed >> U32(16)) | U32(1)))
    x = U32(x ^ U32(x * U32(0x05526C56)))
    return U32(x ^ U32(x * U32(0x53A22864)))


@part
def _pascal(value):
    x = U32(value)
    x = U32(x ^ ((x & U32(0xAAAAAAAA)) >> U32(1)))
    x = U32(x ^ ((x & U32(0xCCCCCCCC)) >> U32(2)))
    x = U32(x ^ ((x & U32(0xF0F0F0F0)) >> U32(4)))
    x = U32(x ^ ((x & U32(0xFF00FF00)) >> U32(8)))
    return U32(x ^ (x >> U32(16)))


@kernel
def square(index, pixel_seed, dimension):
    """Point (u, v) in the unit square: number `index` of the sequence of a pixel and a dimension pair."""
    seed = hash32(U32(pixel_seed ^ U32(U32(dimension) * U32(0x9E3779B9))))
    i = _reverse(_scramble(_reverse(U32(index)), seed))
    a = _reverse(_scramble(i, U32(seed * U32(0x6C50B47C) + U32(0xB82F1E52))))
    b = _reverse(_scramble(_pascal(i), U32(seed * U32(0xC7AFE638) + U32(0x8D22F6E6))))
    return a * _SCALE, b * _SCALE


@kernel
def bits(index, pixel_seed, dimension):
    """32 random bits: number `index` of a pixel and a dimension."""
    return hash32(U32(pixel_seed + U32(index) * U32(0x85EBCA6B) + U32(dimension) * U32(0x9E3779B9)))


@kernel
def scatter_square(index, pixel_seed, dimension):
    """Point (u, v) without stratification, cheaper, for deep bounces."""
    a = bits(index, pixel_seed, dimension)
    return a * _SCALE, hash32(U32(a + U32(0x68BC21EB))) * _SCALE


@part
def disk(u, v):
    """Concentric map of the unit square to the unit disk."""
    a, b = 2 * u - 1, 2 * v - 1
    if a == 0 and b == 0:
        return 0.0, 0.0
    if abs(a) > abs(b):
        sine, cosine = small_sincos(0.7853981633974483 * b / a)
        return a * cosine, a * sine
    sine, cosine = small_sincos(0.7853981633974483 * a / b)
    return b * sine, b * cosine


@part
def basis(x, y, z):
    """Two unit vectors that make an orthonormal basis with the unit vector (x, y, z)."""
    sign = math.copysign(1.0, z)
    a = -1.0 / (sign + z)
    b = x * y * a
    return 1.0 + sign * x * x * a, sign * b, -sign * x, b, sign + y * y * a, -y


@part
def about(nx, ny, nz, u, v):
    """A direction about the unit vector n, drawn with density cosine / pi."""
    p, q = disk(u, v)
    z = math.sqrt(max(1.0 - p * p - q * q, 1e-9))
    t1x, t1y, t1z, t2x, t2y, t2z = basis(nx, ny, nz)
    return p * t1x + q * t2x + z * nx, p * t1y + q * t2y + z * ny, p * t1z + q * t2z + z * nz


@kernel
def search(cdf, first, last, u):
    """Largest k in [first, last) with cdf[k] <= u, for a rising cdf[first..last]."""
    low, high = first, last
    while high - low > 1:
        middle = (low + high) >> 1
        if cdf[middle] <= u:
            low = middle
        else:
            high = middle
    return low


@kernel
def search_row(cdf, row, last, u):
    """Like `search`, in one row of a table, from 0 to `last`."""
    low, high = 0, last
    while high - low > 1:
        middle = (low + high) >> 1
        if cdf[row, middle] <= u:
            low = middle
        else:
            high = middle
    return low


@part
def power_heuristic(a, b):
    """Weight of a sample of density a where another strategy has density b (E. Veach, 1997, section 9.2.4)."""
    if a <= 0:
        return 0.0
    return a * a / (a * a + b * b)
