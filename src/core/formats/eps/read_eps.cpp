#include "base/error.h"
#include "formats/cut_file.h"
#include "formats/eps/eps_page.h"
#include "formats/outside.h"

namespace yokai {

Bytes epsAsPdf(const Bytes& bytes, const std::string& name, const Work& work)
{
    MadeOutside made = pdfByProgram(
        bytes, ".eps",
        [](const std::string& from, const std::string& to) -> std::vector<std::string> {
            return {"gs", "-q", "-dSAFER", "-dNOPAUSE", "-dBATCH", "-dEPSCrop", "-dAutoRotatePages=/None", "-sDEVICE=pdfwrite", "-sOutputFile=" + to, from};
        },
        work);
    if (!made.isInstalled)
        throw Error(ErrorKind::Input, "'{}' is EPS, which needs Ghostscript, and that is not installed; install the package ghostscript, or save the drawing as PDF or SVG", name);
    if (!made.pdf)
        throw Error(ErrorKind::Input, "cannot read '{}': Ghostscript cannot make a page of it; save it again as EPS, or as PDF", name);
    return std::move(*made.pdf);
}

CutFile readEps(const Bytes& bytes, const std::string& name, const Work& work) { return readPdf(epsAsPdf(bytes, name, work), name, 0, work); }

} // namespace yokai
