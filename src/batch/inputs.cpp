// The files named on the command line, as pieces or as lines.

#include "options.h"
#include "values.h"

#include "artwork/svg_size.h"
#include "base/error.h"
#include "formats/artwork_file.h"
#include "formats/drawn_piece.h"

#include <filesystem>
#include <iostream>

namespace yokai::batch {

namespace {

int pageIn(const Options& options) { return options.page.empty() ? 0 : int(plainOption(options.page, "--page", 1, 10'000)) - 1; }

} // namespace

CutFile drawingOf(const std::string& path, const Options& options)
{
    if (!isCutFile(path))
        throw Error(ErrorKind::Usage, "--as lines takes a drawing, and '{}' is none that is read; give an .svg, a .dxf, a .pdf or an .eps", path);
    CutFile file = openCutFile(path, options.upi.empty() ? cssUnitsAnInch : plainOption(options.upi, "--upi", 1, 10'000), {},
                               pageIn(options));
    for (const std::string& left : file.leftOut)
        std::cerr << "yokai-batch: " << left << " in '" << path << "' cannot come in as a line and is left out\n";
    return file;
}

Piece pieceOf(const std::string& path, const Options& options)
{
    if (options.asLines()) {
        if (!options.lines.empty())
            throw Error(ErrorKind::Usage, "--line goes with --as artwork: with --as lines the drawing's own are cut");
        Piece drawn = pieceOfLines(drawingOf(path, options), std::filesystem::path(path).filename().string());
        applyTo(drawn, options);
        return drawn;
    }
    Piece piece;
    ArtworkFile read = openArtwork(path);
    for (const std::string& left : read.leftOut)
        std::cerr << "yokai-batch: " << left << " in '" << path << "' cannot come in and is left out\n";
    piece.artwork.picture = std::move(read.picture);
    if (!options.page.empty())
        piece.artwork.picture = pageOf(piece.artwork.picture, pageIn(options));
    piece.name = std::filesystem::path(path).stem().string();
    applyTo(piece, options);
    // A drawing in units of its own is as large as they are said to be.
    if (const PictureInfo& info = piece.artwork.picture.info; !options.upi.empty() && info.format == PictureFormat::Svg && !info.sized && piece.artwork.sizeBy == SizeBy::File) {
        piece.artwork.sizeBy = SizeBy::Ppi;
        piece.artwork.ppi = info.ppi * plainOption(options.upi, "--upi", 1, 10'000) / cssUnitsAnInch;
    }
    return piece;
}

} // namespace yokai::batch
