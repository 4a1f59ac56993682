"""Reads the cut lines of an SVG, a DXF and a PDF with other people's readers and
prints the largest distance between any two of them, in mm, y down.

DXF: ezdxf. PDF: qpdf's uncompressed form, whose page content is read here.
Distances: shapely's Hausdorff distance over densely sampled lines.
"""
import re
import subprocess
import sys

import ezdxf
from shapely.geometry import MultiLineString


def sampled(start, c1, c2, end, n=64):
    for i in range(1, n + 1):
        t = i / n
        u = 1 - t
        yield tuple(u**3 * a + 3 * u * u * t * b + 3 * u * t * t * c + t**3 * d for a, b, c, d in zip(start, c1, c2, end))


def svg_lines(name):
    text = open(name, encoding="utf-8").read()
    group = re.search(r'<g id="cut-through".*?</g>', text, re.S).group(0)
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


def dxf_lines(name, height):
    document = ezdxf.readfile(name)
    assert not document.audit().errors, document.audit().errors
    assert document.header["$INSUNITS"] == 4
    lines = []
    for entity in document.modelspace().query('LWPOLYLINE POLYLINE[layer=="CUT_THROUGH"]'):
        points = [(p[0], height - p[1]) for p in (entity.get_points() if entity.dxftype() == "LWPOLYLINE" else entity.points())]
        lines.append(points + points[:1])
    return lines


def pdf_lines(name):
    text = subprocess.run(["qpdf", "--qdf", "--object-streams=disable", name, "-"], check=True, capture_output=True).stdout.decode("latin-1")
    content = re.search(r"/Csthrough CS 1 SCN.*?\nQ\n", text, re.S).group(0)
    lines, points = [], []
    for row in content.splitlines():
        *args, op = row.split() or [""]
        try:
            v = [float(x) for x in args]
        except ValueError:
            continue
        if op == "m":
            points = [tuple(v)]
        elif op == "l":
            points.append(tuple(v))
        elif op == "c":
            points.extend(sampled(points[-1], v[0:2], v[2:4], v[4:6]))
        elif op == "h":
            lines.append(points + points[:1])
    # The content's own matrix is the unit; what it does to a point is checked by rendering.
    return lines


svg, height = svg_lines(sys.argv[1])
dxf = dxf_lines(sys.argv[2], height)
pdf = pdf_lines(sys.argv[3])
assert len(svg) == len(dxf) == len(pdf) > 0, (len(svg), len(dxf), len(pdf))
worst = 0.0
for a, b, c in zip(svg, dxf, pdf):
    for other in (b, c):
        worst = max(worst, MultiLineString([a]).hausdorff_distance(MultiLineString([other])))
print(f"{len(svg)} lines, worst {worst:.5f}")
sys.exit(0 if worst < 0.01 else 1)
