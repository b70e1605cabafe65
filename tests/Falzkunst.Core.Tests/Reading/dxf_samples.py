"""Writes DXF files of all versions with an independent library, and what that library says that they measure.

    dxf_samples.py FOLDER COUNT

Each line printed: name, mm in a unit, length of all curves, area of all closed ones (both in units; nan where it can't tell), number of curves.
"""
import math
import random
import sys

import ezdxf
from ezdxf.math import global_bspline_interpolation

VERSIONS = ["R12", "R2000", "R2004", "R2007", "R2010", "R2013", "R2018"]
UNITS = [(4, 1.0), (1, 25.4), (5, 10.0), (0, 1.0)]


def entity(space, rnd, modern, uneven, blocks, rows=False):
    p = lambda r=200: (rnd.uniform(-r, r), rnd.uniform(-r, r))
    attribs = {"layer": rnd.choice(["0", "cut", "fold lines", "Äußeres"]), "color": rnd.choice([256, 0, 1, 5, 120])}
    kinds = ["line", "arc", "circle", "polyline"] + (["ellipse", "lwpolyline", "spline", "fit", "rational"] if modern else []) + (["insert"] * 2 if blocks else [])
    kind = rnd.choice(kinds)
    # Arcs, circles and polylines may lie in a plane that is seen from below.
    flipped = dict(attribs, extrusion=(0, 0, -1)) if rnd.random() < 0.2 else attribs
    if kind == "line":
        space.add_line(p(), p(), dxfattribs=attribs)
    elif kind == "arc":
        space.add_arc(p(), rnd.uniform(1, 60), rnd.uniform(-360, 360), rnd.uniform(-360, 720), dxfattribs=flipped)
    elif kind == "circle":
        space.add_circle(p(), rnd.uniform(1, 60), dxfattribs=flipped)
    elif kind == "ellipse":
        a = rnd.uniform(0, math.tau)
        major = rnd.uniform(5, 60)
        start = rnd.choice([0, rnd.uniform(0, 6)])
        space.add_ellipse(p(), (major * math.cos(a), major * math.sin(a)), rnd.uniform(0.1, 1), start, math.tau if start == 0 else start + rnd.uniform(0.3, 6), dxfattribs=attribs)
    elif kind in ("polyline", "lwpolyline"):
        points = [(*p(), rnd.choice([0, 0, rnd.uniform(-2.5, 2.5)])) for _ in range(rnd.randint(2, 9))]
        close = rnd.random() < 0.5
        add = space.add_lwpolyline if kind == "lwpolyline" else space.add_polyline2d
        add(points, format="xyb", close=close, dxfattribs=flipped)
    elif kind == "spline":
        space.add_open_spline([p() for _ in range(rnd.randint(5, 9))], degree=rnd.choice([2, 3, 3, 4]), dxfattribs=attribs)
    elif kind == "rational":
        points = [p() for _ in range(rnd.randint(4, 7))]
        space.add_rational_spline(points, [rnd.uniform(0.3, 3) for _ in points], degree=3, dxfattribs=attribs)
    elif kind == "fit":
        space.add_spline(dxfattribs=attribs).apply_construction_tool(global_bspline_interpolation([p() for _ in range(rnd.randint(4, 8))], degree=3))
    else:
        sx = rnd.choice([1, -1]) * rnd.uniform(0.3, 2)
        sy = rnd.choice([1, -1]) * (rnd.uniform(0.3, 2) if uneven else abs(sx))
        more = {"column_count": rnd.randint(1, 3), "row_count": rnd.randint(1, 2), "column_spacing": 40, "row_spacing": 55} if rows and rnd.random() < 0.4 else {}
        space.add_blockref(rnd.choice(blocks), p(), dxfattribs=dict(attribs, xscale=sx, yscale=sy, rotation=rnd.uniform(-360, 360), **more))


def curves(entities):
    for e in entities:
        if e.dxftype() == "INSERT":
            for one in (e.multi_insert() if e.mcount > 1 else [e]):
                yield from curves(one.virtual_entities())
        elif e.dxftype() == "SPLINE":
            # Points of the spline itself: its library's paths follow it too loosely to judge by.
            yield list(e.construction_tool().approximate(600))
        elif e.dxftype() == "LINE":
            yield [e.dxf.start, e.dxf.end]
        elif e.dxftype() in ("LWPOLYLINE", "POLYLINE"):
            # Arcs run counter-clockwise there, whichever way the polyline runs.
            parts = [list(next(curves([part]))) for part in e.virtual_entities()]
            near = lambda a, b: math.dist((a.x, a.y), (b.x, b.y)) < 1e-6
            if len(parts) > 1 and not (near(parts[0][-1], parts[1][0]) or near(parts[0][-1], parts[1][-1])):
                parts[0].reverse()
            for before, part in zip(parts, parts[1:]):
                if not near(before[-1], part[0]):
                    part.reverse()
            yield [q for part in parts for q in part]
        else:
            yield list(e.flattening(0.0005))


folder, count = sys.argv[1], int(sys.argv[2])
for i in range(count):
    rnd = random.Random(1000 + i)
    version = VERSIONS[i % len(VERSIONS)]
    # Under uneven scales the library takes polylines apart, so that only their length can be judged; R12 has no ellipses
    # for its circles, and an insertion in an insertion can't be sheared.
    uneven = i % 5 == 0 and version != "R12"
    doc = ezdxf.new(version)
    doc.layers.add("cut", color=1)
    doc.layers.add("fold lines", color=5)
    # R12 has no word for its unit.
    unit, mm = UNITS[i // 3 % len(UNITS)] if version != "R12" else (0, 1.0)
    doc.header["$INSUNITS"] = unit
    blocks = []
    for b in range(rnd.randint(0, 3)):
        block = doc.blocks.new(f"b{b}", base_point=(rnd.uniform(-9, 9), rnd.uniform(-9, 9)))
        for _ in range(rnd.randint(1, 4)):
            entity(block, rnd, version != "R12", uneven, [] if uneven else blocks)
        blocks.append(f"b{b}")
    for _ in range(rnd.randint(1, 14)):
        entity(doc.modelspace(), rnd, version != "R12", uneven, blocks, True)
    doc.saveas(f"{folder}/{i}.dxf")
    length = area = n = 0
    for c in curves(ezdxf.readfile(f"{folder}/{i}.dxf").modelspace()):
        points = [(q.x, q.y) for q in c]
        length += sum(math.dist(a, b) for a, b in zip(points, points[1:]))
        if math.dist(points[0], points[-1]) < 1e-6:
            area += abs(sum(a[0] * b[1] - a[1] * b[0] for a, b in zip(points, points[1:]))) / 2
        n += 1
    print(i, mm, repr(length), "nan" if uneven else repr(area), n)
