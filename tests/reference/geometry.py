"""Reads the cut lines of an SVG, a DXF and a PDF with other people's readers and
prints the largest distance between them and the lines they were made of, in mm, y down.

geometry.py SVG DXF PDF [TRUTH], TRUTH a JSON object: by kind, a list of lists of points and
what part of their length is cut. Without it the three are compared with each other, through
lines only.

DXF: ezdxf. PDF: qpdf's uncompressed form, whose page content is read here.
Distances: shapely's Hausdorff distance over densely sampled lines.
"""
import json
import re
import subprocess
import sys

import ezdxf
from shapely.geometry import LineString, Point


def sampled(start, c1, c2, end, n=64):
    for i in range(1, n + 1):
        t = i / n
        u = 1 - t
        yield tuple(u**3 * a + 3 * u * u * t * b + 3 * u * t * t * c + t**3 * d for a, b, c, d in zip(start, c1, c2, end))


def layer(kind):
    return "crease" if kind == "crease" else "cut-" + kind


def svg_lines(name, kind):
    text = open(name, encoding="utf-8").read()
    group = re.search(r'<g id="%s".*?</g>' % layer(kind), text, re.S).group(0)
    lines = []
    for d in re.findall(r' d="([^"]+)"', group):
        points = []
        for op, args in re.findall(r"([MLCZ])([^MLCZ]*)", d):
            v = [float(x) for x in args.split()]
            if op in "ML":
                points.append((v[0], v[1]))
            elif op == "C":
                points.extend(sampled(points[-1], v[0:2], v[2:4], v[4:6]))
            else:
                points.append(points[0])
        lines.append(points)
    height = float(re.search(r'height="([0-9.]+)mm"', text).group(1))
    return lines, height


def dxf_lines(name, kind, height):
    document = ezdxf.readfile(name)
    assert not document.audit().errors, document.audit().errors
    assert document.header["$INSUNITS"] == 4
    lines = []
    for entity in document.modelspace().query('LWPOLYLINE POLYLINE[layer=="%s"]' % layer(kind).upper().replace("-", "_")):
        points = [(p[0], height - p[1]) for p in (entity.get_points() if entity.dxftype() == "LWPOLYLINE" else entity.points())]
        lines.append(points + points[:1] if entity.is_closed else points)
    return lines


def pdf_lines(name, kind):
    text = subprocess.run(["qpdf", "--qdf", "--object-streams=disable", name, "-"], check=True, capture_output=True).stdout.decode("latin-1")
    content = re.search(r"/Cs%s CS 1 SCN.*?\nQ\n" % kind, text, re.S).group(0)
    lines, points = [], []
    for row in content.splitlines():
        *args, op = row.split() or [""]
        try:
            v = [float(x) for x in args]
        except ValueError:
            continue
        if op in "mS" and points:
            lines.append(points)
            points = []
        if op == "m":
            points = [tuple(v)]
        elif op == "l":
            points.append(tuple(v))
        elif op == "c":
            points.extend(sampled(points[-1], v[0:2], v[2:4], v[4:6]))
        elif op == "h":
            lines.append(points + points[:1])
            points = []
    # The content's own matrix is the unit; what it does to a point is checked by rendering.
    return lines


def nearest(line, shapes):
    """That of `shapes` whose box is most like the line's."""
    return min(shapes, key=lambda s: max(abs(a - b) for a, b in zip(s.bounds, line.bounds)))


def away(line, shapes):
    """The largest distance of a place of an open dash from the nearest shape."""
    near = [s for s in shapes if s.envelope.buffer(1).contains(line)]
    return max(min(Point(p).distance(s) for s in near) for p in line.coords)


worst, count = 0.0, 0
expected = json.load(open(sys.argv[4])) if len(sys.argv) > 4 else {"through": (svg_lines(sys.argv[1], "through")[0], 1)}
for kind, (shapes, share) in expected.items():
    truth = [LineString(shape) for shape in shapes]
    svg, height = svg_lines(sys.argv[1], kind)
    count += len(svg)
    for lines in (svg, dxf_lines(sys.argv[2], kind, height), pdf_lines(sys.argv[3], kind)):
        made = [LineString(line) for line in lines]
        if share == 1:
            assert len(made) == len(truth), (kind, len(made), len(truth))
            worst = max(worst, *(line.hausdorff_distance(nearest(line, truth)) for line in made))
            worst = max(worst, *(line.hausdorff_distance(nearest(line, made)) for line in truth))
        else:
            worst = max(worst, *(away(line, truth) for line in made))
            cut = sum(line.length for line in made) / sum(line.length for line in truth)
            assert abs(cut - share) < 0.02, (kind, cut, share)
print(f"{count} lines, worst {worst:.5f}")
sys.exit(0 if worst < 0.01 else 1)
