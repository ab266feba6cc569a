"""The bounding volume hierarchy: boxes in boxes, so that a ray meets few shapes. Compiled; no Pemlo but `compiled`."""

import numpy as np
import numpy.typing as npt

from pemlo.core.arrays import Floats
from pemlo_simulators.renderer.compiled import compiled, compiled_with_arrays

# A node has this many children, whose boxes are looked at together.
WIDTH = 16
_BINS = 16
_LEAF = 4
_TRAVERSAL_COST = 1.5


@compiled
def _half_area(box: Floats) -> float:
    a, b, c = box[3] - box[0], box[4] - box[1], box[5] - box[2]
    return a * b + b * c + c * a


@compiled
def _empty(box: Floats) -> None:
    for axis in range(3):
        box[axis], box[3 + axis] = np.inf, -np.inf


@compiled
def _include(box: Floats, other: Floats) -> None:
    for axis in range(3):
        box[axis], box[3 + axis] = min(box[axis], other[axis]), max(box[3 + axis], other[3 + axis])


Numbers = npt.NDArray[np.int32]


@compiled_with_arrays
def build_hierarchy(bounds: Floats) -> tuple[Floats, Numbers, Numbers]:
    """Sort shapes into a tree of boxes by the surface area heuristic, in bins, with up to `WIDTH` children a node.

    Parameters
    ----------
    bounds : (N, 6) ndarray
        Boxes around the shapes, least corner then greatest; N >= 1.

    Returns
    -------
    boxes : (M, 6, WIDTH) ndarray
        Boxes of the children of each node; the first node is the top. Missing children have boxes that nothing enters.
    links : (M, WIDTH, 2) ndarray of int32
        Of each child: its first place in `order` and how many shapes it has; or its node and 0; or 0 and -1 after the
        last child.
    order : (N,) ndarray of int32
        Shapes in the order of the leaves.

    References
    ----------
    .. [1] I. Wald, "On fast construction of SAH-based bounding volume hierarchies", IEEE RT 2007.
    """
    boxes, links, order = _two_by_two(bounds)
    return *_widened(boxes, links), order


@compiled_with_arrays
def _two_by_two(bounds: Floats) -> tuple[Floats, Numbers, Numbers]:
    """Return a tree with two children a node: boxes (M, 6); links (M, 2) as of `build_hierarchy`, first child next."""
    count = len(bounds)
    order = np.arange(count).astype(np.int32)
    boxes, links = np.empty((2 * count, 6)), np.zeros((2 * count, 2), np.int32)
    centres = (bounds[:, :3] + bounds[:, 3:]) * 0.5
    # Each entry: first, end, parent whose second child this is (-1 for none).
    waiting = np.empty((2 * count + 2, 3), np.int64)
    waiting[0, 0], waiting[0, 1], waiting[0, 2] = 0, count, -1
    left, made = 1, 0
    while left > 0:
        left -= 1
        first, end, parent = waiting[left, 0], waiting[left, 1], waiting[left, 2]
        node = made
        made += 1
        if parent >= 0:
            links[parent, 0] = node
        _empty(boxes[node])
        for i in range(first, end):
            _include(boxes[node], bounds[order[i]])
        split = _divide(bounds, centres, order, first, end, boxes[node])
        if split < 0:
            links[node, 0], links[node, 1] = first, end - first
            continue
        waiting[left, 0], waiting[left, 1], waiting[left, 2] = split, end, node
        waiting[left + 1, 0], waiting[left + 1, 1], waiting[left + 1, 2] = first, split, -1
        left += 2
    return boxes[:made].copy(), links[:made].copy(), order


@compiled_with_arrays
def _widened(boxes: Floats, links: Numbers) -> tuple[Floats, Numbers]:
    """Give each node the children of its largest children, until it has `WIDTH` of them."""
    # Missing children are points so far away that no ray gets there.
    wide_boxes = np.full((len(boxes), 6, WIDTH), 1e30)
    wide_links = np.zeros((len(boxes), WIDTH, 2), np.int32)
    sources = np.zeros(len(boxes), np.int32)
    made, done = 1, 0
    while done < made:
        children = np.zeros(WIDTH, np.int32)
        children[0] = sources[done]
        count = 1
        while count < WIDTH:
            widest, area = -1, -1.0
            for k in range(count):
                here = _half_area(boxes[children[k]])
                if links[children[k], 1] == 0 and here > area:
                    widest, area = k, here
            if widest < 0:
                break
            opened = children[widest]
            children[widest], children[count] = opened + 1, links[opened, 0]
            count += 1
        wide_links[done, count:, 1] = -1
        for k in range(count):
            wide_boxes[done, :, k] = boxes[children[k]]
            wide_links[done, k] = links[children[k]]
            if links[children[k], 1] == 0:
                wide_links[done, k, 0] = made
                sources[made] = children[k]
                made += 1
        done += 1
    return wide_boxes[:made].copy(), wide_links[:made].copy()


@compiled_with_arrays
def _divide(bounds: Floats, centres: Floats, order: Numbers, first: int, end: int, box: Floats) -> int:
    """Part the shapes of a node in two where it is cheapest; return the border, or -1 if one leaf is cheaper."""
    count = end - first
    best_cost, best_axis, best_border, best_low, best_scale = np.inf, -1, 0, 0.0, 0.0
    counts, bins, right_cost = np.empty(_BINS, np.int64), np.empty((_BINS, 6)), np.empty(_BINS)
    around = np.empty(6)
    for axis in range(3):
        low, high = np.inf, -np.inf
        for i in range(first, end):
            low, high = min(low, centres[order[i], axis]), max(high, centres[order[i], axis])
        if high - low < 1e-12:
            continue
        scale = _BINS * (1 - 1e-9) / (high - low)
        for b in range(_BINS):
            counts[b] = 0
            _empty(bins[b])
        for i in range(first, end):
            b = int((centres[order[i], axis] - low) * scale)
            counts[b] += 1
            _include(bins[b], bounds[order[i]])
        total = 0
        _empty(around)
        for b in range(_BINS - 1, 0, -1):
            total += counts[b]
            _include(around, bins[b])
            right_cost[b] = total * _half_area(around) if total else np.inf
        total = 0
        _empty(around)
        for b in range(_BINS - 1):
            total += counts[b]
            _include(around, bins[b])
            if total == 0 or total == count:
                continue
            cost = total * _half_area(around) + right_cost[b + 1]
            if cost < best_cost:
                best_cost, best_axis, best_border, best_low, best_scale = cost, axis, b, low, scale
    whole = _half_area(box)
    if best_axis < 0:
        return -1 if count <= 4 * _LEAF else first + count // 2
    if count <= _LEAF and best_cost >= whole * (count - _TRAVERSAL_COST):
        return -1
    border = first
    for i in range(first, end):
        shape = order[i]
        if int((centres[shape, best_axis] - best_low) * best_scale) <= best_border:
            order[i], order[border] = order[border], shape
            border += 1
    return border
