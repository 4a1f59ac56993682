"""Draws SVG files of plain colours by librsvg: FOLDER OUT COUNT, evenly chosen by name. Left out are those that draw the same edge twice: its smooth
rim is then darker than what is covered, and a picture of it has other areas than the drawing. NAME.png 700 px across, smoothly; NAME.true.png four
times as large with hard edges, so that every pixel has a colour the drawing names."""
import pathlib
import re
import subprocess
import sys
from concurrent.futures import ThreadPoolExecutor

folder, out, count = pathlib.Path(sys.argv[1]), pathlib.Path(sys.argv[2]), int(sys.argv[3])


def twice(text):
    edges = re.findall(r'\bd="([^"]+)"', text) + re.findall(r'<circle[^>]*?(cx="[^"]+" cy="[^"]+"[^>]*?r="[^"]+")', text)
    return len(edges) != len(set(edges))


plain = [f for f in sorted(folder.glob("*.svg")) if not re.search("opacity|gradient|style|filter|mask|<image|<text", f.read_text(), re.I) and not twice(f.read_text())]
chosen = plain[:: max(1, len(plain) // count)][:count]


def draw(file):
    hard = out / f"{file.stem}.hard.svg"
    hard.write_text(file.read_text().replace("<svg ", '<svg shape-rendering="crispEdges" ', 1))
    subprocess.run(["rsvg-convert", "-w", "700", "-o", out / f"{file.stem}.png", file], check=True)
    subprocess.run(["rsvg-convert", "-w", "2800", "-o", out / f"{file.stem}.true.png", hard], check=True)


with ThreadPoolExecutor(2) as pool:
    list(pool.map(draw, chosen))
