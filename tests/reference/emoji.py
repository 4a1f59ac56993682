"""Writes the colour bitmaps of Noto Color Emoji (Debian's fonts-noto-color-emoji,
OFL) as PNG files: hundreds of real pictures with anti-aliased transparency."""
import sys

from fontTools.ttLib import TTFont

font = TTFont(sys.argv[1])
written = 0
for strike in font["CBDT"].strikeData:
    for name in sorted(strike):
        if written == int(sys.argv[3]):
            break
        data = strike[name].imageData
        if data[:4] == b"\x89PNG":
            open(f"{sys.argv[2]}/{written:04d}.png", "wb").write(data)
            written += 1
print(written)
