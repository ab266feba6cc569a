"""Vectors as tuples of three numbers. The compiler keeps them in registers."""

import math

from pemlo_simulators.renderer.compiled import compiled

Vector = tuple[float, float, float]


@compiled
def dot(a: Vector, b: Vector) -> float:
    """Return the scalar product."""
    return a[0] * b[0] + a[1] * b[1] + a[2] * b[2]


@compiled
def cross(a: Vector, b: Vector) -> Vector:
    """Return the vector product."""
    return (a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0])


@compiled
def add(a: Vector, b: Vector) -> Vector:
    """Return the sum."""
    return (a[0] + b[0], a[1] + b[1], a[2] + b[2])


@compiled
def minus(a: Vector, b: Vector) -> Vector:
    """Return the difference."""
    return (a[0] - b[0], a[1] - b[1], a[2] - b[2])


@compiled
def times(a: Vector, by: float) -> Vector:
    """Return a vector so many times as long."""
    return (a[0] * by, a[1] * by, a[2] * by)


@compiled
def tint(a: Vector, b: Vector) -> Vector:
    """Multiply part by part, as light and colour do."""
    return (a[0] * b[0], a[1] * b[1], a[2] * b[2])


@compiled
def along(origin: Vector, direction: Vector, distance: float) -> Vector:
    """Return the point at a distance along a ray."""
    return (
        origin[0] + direction[0] * distance,
        origin[1] + direction[1] * distance,
        origin[2] + direction[2] * distance,
    )


@compiled
def unit(a: Vector) -> Vector:
    """Return the vector of length one in the same direction."""
    return times(a, 1.0 / math.sqrt(a[0] * a[0] + a[1] * a[1] + a[2] * a[2]))


@compiled
def largest(a: Vector) -> float:
    """Return the largest of the three parts."""
    return max(a[0], max(a[1], a[2]))


@compiled
def frame_around(n: Vector) -> tuple[Vector, Vector]:
    """Return two directions that stand on `n` and on each other.

    References
    ----------
    .. [1] T. Duff et al., "Building an orthonormal basis, revisited", JCGT 6(1), 2017.
    """
    sign = 1.0 if n[2] >= 0.0 else -1.0
    a = -1.0 / (sign + n[2])
    b = n[0] * n[1] * a
    return (1.0 + sign * n[0] * n[0] * a, sign * b, -sign * n[0]), (b, sign + n[1] * n[1] * a, -n[1])


@compiled
def turned_to(n: Vector, local: Vector) -> Vector:
    """Return a direction given in the frame around `n` (third part along it) in the world."""
    s, t = frame_around(n)
    return (
        s[0] * local[0] + t[0] * local[1] + n[0] * local[2],
        s[1] * local[0] + t[1] * local[1] + n[1] * local[2],
        s[2] * local[0] + t[2] * local[1] + n[2] * local[2],
    )


@compiled
def seen_from(n: Vector, world: Vector) -> Vector:
    """Return a direction of the world in the frame around `n`."""
    s, t = frame_around(n)
    return (dot(s, world), dot(t, world), dot(n, world))


@compiled
def on_circle(turn: float) -> tuple[float, float]:
    """Return cosine and sine of a share of a full turn (0 to 1), to 1e-10, faster than the library.

    Taylor's series about the nearest quarter turn.
    """
    quarter = math.floor(4.0 * turn + 0.5)
    x = (4.0 * turn - quarter) * (0.5 * math.pi)
    q = x * x
    s = x * (1.0 + q * (-1 / 6 + q * (1 / 120 + q * (-1 / 5040 + q * (1 / 362880 - q / 39916800)))))
    c = 1.0 + q * (-1 / 2 + q * (1 / 24 + q * (-1 / 720 + q * (1 / 40320 + q * (-1 / 3628800 + q / 479001600)))))
    k = int(quarter) & 3
    a, b = (s, c) if k & 1 else (c, s)
    return (-a if k == 1 or k == 2 else a), (-b if k >= 2 else b)


@compiled
def rotated(v: Vector, axis: Vector, angle: float) -> Vector:
    """Turn `v` around a unit axis (Rodrigues' formula)."""
    c, s = on_circle(angle / (2.0 * math.pi))
    side = cross(axis, v)
    lift = dot(axis, v) * (1.0 - c)
    return (
        v[0] * c + side[0] * s + axis[0] * lift,
        v[1] * c + side[1] * s + axis[1] * lift,
        v[2] * c + side[2] * s + axis[2] * lift,
    )
