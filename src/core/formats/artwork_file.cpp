#include "formats/artwork_file.h"

#include "formats/cut_file.h"
#include "formats/eps/eps_page.h"
#include "formats/svg/svg.h"

namespace yokai {

ArtworkFile openArtwork(const std::filesystem::path& path, const Work& work)
{
    const std::string ending = endingOf(path);
    if (ending == ".eps")
        return {pictureFromBytes(epsAsPdf(readFile(path), path.string(), work), path.filename().string()), {}};
    if (ending != ".dxf")
        return {openPicture(path), {}};
    const CutFile drawn = openCutFile(path, cssUnitsAnInch, work);
    const std::string svg = svgOfShapes(drawn.drawing.cuts, drawn.drawing.width, drawn.drawing.height);
    return {pictureFromBytes(Bytes(svg.begin(), svg.end()), path.filename().string()), drawn.leftOut};
}

} // namespace yokai
