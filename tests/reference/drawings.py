"""Draws SVG files by librsvg, 560 px across (47 mm at 300 ppi): FOLDER OUT COUNT, evenly chosen by name."""
import pathlib
import subprocess
import sys
from concurrent.futures import ThreadPoolExecutor

folder, out, count = pathlib.Path(sys.argv[1]), pathlib.Path(sys.argv[2]), int(sys.argv[3])
files = sorted(folder.glob("*.svg"))
chosen = files[:: max(1, len(files) // count)][:count]


def draw(file):
    subprocess.run(["rsvg-convert", "-w", "560", "-o", out / f"{file.stem}.png", file], check=True)


with ThreadPoolExecutor(2) as pool:
    list(pool.map(draw, chosen))
