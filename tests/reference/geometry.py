"""Reads the cut lines of an SVG, a DXF, a PDF, an EPS and an HPGL file with other people's
readers and prints the largest distance between them and the lines they were made of, in mm,
y down.

geometry.py SVG DXF[,DXF...] PDF [TRUTH [EPS HPGL]], TRUTH a JSON object: by kind, a list of lists of
points and what part of their length is cut. Without it the three are compared with each other,
through lines only.

DXF: ezdxf. PDF: qpdf's uncompressed form, whose page content is read here. EPS: Ghostscript
makes a PDF of it, whose spot colours tell the kinds. HPGL: hp2xx makes a DXF of each pen.
Distances: shapely's Hausdorff distance over densely sampled lines.
"""
import json
import os
import re
import subprocess
import sys
import tempfile

import ezdxf
import ezdxf.path
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
    on = layer(kind).upper().replace("-", "_")
    curves = [e for e in document.modelspace() if e.dxf.layer == on]
    assert len({e.dxftype() for e in curves}) == 1
    return [[(p.x, height - p.y) for p in ezdxf.path.make_path(e).flattening(0.0005)] for e in curves]


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


def drawn(content, spaces):
    """What a page strokes in each of its colour spaces: (space, points) in points of the page."""
    def times(m, n):  # m first
        return (m[0] * n[0] + m[1] * n[2], m[0] * n[1] + m[1] * n[3], m[2] * n[0] + m[3] * n[2], m[2] * n[1] + m[3] * n[3],
                m[4] * n[0] + m[5] * n[2] + n[4], m[4] * n[1] + m[5] * n[3] + n[5])

    matrix, space, stack, args, parts = (1, 0, 0, 1, 0, 0), None, [], [], []
    place = lambda x, y: (x * matrix[0] + y * matrix[2] + matrix[4], x * matrix[1] + y * matrix[3] + matrix[5])
    for token in content.split():
        try:
            args.append(float(token))
            continue
        except ValueError:
            pass
        if token.startswith("/"):
            args.append(token[1:])
            continue
        if token == "q":
            stack.append((matrix, space))
        elif token == "Q":
            matrix, space = stack.pop()
        elif token == "cm":
            matrix = times(args, matrix)
        elif token == "CS":
            space = spaces.get(args[-1])
        elif token in ("RG", "K", "G"):
            space = None
        elif token == "m":
            parts.append([place(*args)])
        elif token == "l":
            parts[-1].append(place(*args))
        elif token == "c":
            parts[-1].extend(sampled(parts[-1][-1], place(*args[0:2]), place(*args[2:4]), place(*args[4:6])))
        elif token == "h":
            parts[-1].append(parts[-1][0])
        elif token in ("S", "s"):
            if token == "s":
                parts[-1].append(parts[-1][0])
            yield from ((space, part) for part in parts)
            parts = []
        elif token in ("f", "f*", "n", "B", "B*"):
            parts = []
        args = []


def eps_lines(name):
    with tempfile.TemporaryDirectory() as folder:
        pdf, plain = os.path.join(folder, "eps.pdf"), os.path.join(folder, "plain.pdf")
        subprocess.run(["gs", "-q", "-dBATCH", "-dNOPAUSE", "-dSAFER", "-dEPSCrop", "-sDEVICE=pdfwrite", "-r7200", "-sOutputFile=" + pdf, name], check=True)
        subprocess.run(["qpdf", "--qdf", "--object-streams=disable", pdf, plain], check=True)
        text = open(plain, "rb").read().decode("latin-1")
    separations = {number: spot for number, spot in re.findall(r"\n(\d+) 0 obj\n\[\s*/Separation\s*/(\S+)", text)}
    spaces = {key: separations[number] for key, number in re.findall(r"/(\w+) (\d+) 0 R", text) if number in separations}
    page = int(re.search(r"/Contents (\d+) 0 R", text).group(1))
    content = re.search(r"\n%d 0 obj\n.*?stream\n(.*?)endstream" % page, text, re.S).group(1)
    height = float(re.search(r"/MediaBox \[\s*\S+\s+\S+\s+\S+\s+(\S+)", text).group(1))
    mm = 25.4 / 72
    lines = {}
    for space, points in drawn(content, spaces):
        if space:
            lines.setdefault(space.lower(), []).append([(x * mm, (height - y) * mm) for x, y in points])
    return lines


def hpgl_lines(name, height):
    pens = {"1": "through", "2": "kiss", "3": "perforate", "4": "crease"}
    lines = {}
    for pen, commands in re.findall(r"SP([1-4]);(.*?)(?=SP)", open(name).read(), re.S):
        places = [(int(x) / 40, int(y) / 40) for x, y in re.findall(r"(-?\d+),(-?\d+)", commands)]
        left, bottom = min(x for x, _ in places), min(y for _, y in places)  # hp2xx counts from there
        with tempfile.TemporaryDirectory() as folder:
            dxf = os.path.join(folder, "pen.dxf")
            subprocess.run(["hp2xx", "-q", "-t", "-N", "-m", "dxf", "-f", dxf, "-"], input="IN;SP1;" + commands, text=True, check=True, capture_output=True)
            strokes = [[(e.dxf.start.x, e.dxf.start.y), (e.dxf.end.x, e.dxf.end.y)] for e in ezdxf.readfile(dxf).modelspace().query("LINE")]
        lines[pens[pen]] = [[(x + left, height - y - bottom) for x, y in stroke] for stroke in strokes]
    return lines


def nearest(line, shapes):
    """That of `shapes` whose box is most like the line's."""
    return min(shapes, key=lambda s: max(abs(a - b) for a, b in zip(s.bounds, line.bounds)))


def away(line, shapes):
    """The largest distance of a place of an open dash from the nearest shape."""
    near = [s for s in shapes if s.envelope.buffer(1).contains(line)]
    return max(min(Point(p).distance(s) for s in near) for p in line.coords)


worst, coarsest, count = 0.0, 0.0, 0
expected = json.load(open(sys.argv[4])) if len(sys.argv) > 4 else {"through": (svg_lines(sys.argv[1], "through")[0], 1)}
for kind, (shapes, share) in expected.items():
    truth = [LineString(shape) for shape in shapes]
    svg, height = svg_lines(sys.argv[1], kind)
    count += len(svg)
    for lines in (svg, *(dxf_lines(dxf, kind, height) for dxf in sys.argv[2].split(",")), pdf_lines(sys.argv[3], kind)):
        made = [LineString(line) for line in lines]
        if share == 1:
            assert len(made) == len(truth), (kind, len(made), len(truth))
            worst = max(worst, *(line.hausdorff_distance(nearest(line, truth)) for line in made))
            worst = max(worst, *(line.hausdorff_distance(nearest(line, made)) for line in truth))
        else:
            worst = max(worst, *(away(line, truth) for line in made))
            cut = sum(line.length for line in made) / sum(line.length for line in truth)
            assert abs(cut - share) < 0.02, (kind, cut, share)
if len(sys.argv) > 5:
    eps, hpgl = eps_lines(sys.argv[5]), hpgl_lines(sys.argv[6], svg_lines(sys.argv[1], "through")[1])
    for kind, (shapes, share) in expected.items():
        truth = [LineString(shape) for shape in shapes]
        made = [LineString(line) for line in eps[kind]]
        strokes = [LineString(line) for line in hpgl[kind]]
        if share == 1:
            assert len(made) == len(truth), (kind, len(made), len(truth))
            worst = max(worst, *(line.hausdorff_distance(nearest(line, truth)) for line in made))
        else:
            worst = max(worst, *(away(line, truth) for line in made))
        coarsest = max(coarsest, *(away(line, truth) for line in strokes[::4]))
        cut = sum(line.length for line in strokes) / sum(line.length for line in truth)
        assert abs(cut - share) < 0.02, (kind, cut, share)
print(f"{count} lines, worst {worst:.5f}, HPGL {coarsest:.5f}")
# A unit of HPGL is 0.025 mm: half of it each way, and what hp2xx rounds.
sys.exit(0 if worst < 0.01 and coarsest < 0.0125 * 2**0.5 + 0.006 else 1)
