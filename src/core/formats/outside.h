// Programs that make a page of PDF out of another file: Ghostscript of PostScript, which is a program itself, poppler's pdftocairo of a
// page that is to be drawn anew.
//
// Each runs in a process of its own, so that whatever a file does to it ends nothing else; it is ended when work is stopped, or
// after a minute.
#pragma once

#include "base/file.h"
#include "base/work.h"

#include <functional>
#include <optional>
#include <string>
#include <vector>

namespace yokai {

struct MadeOutside {
    bool isInstalled = true;  // the program
    std::optional<Bytes> pdf; // none: it could make no page of it
};
// `ending` as files of the kind have it, with its dot; `command`: the program and what it is told, from which file to which.
MadeOutside pdfByProgram(const Bytes& bytes, const std::string& ending, const std::function<std::vector<std::string>(const std::string& from, const std::string& to)>& command,
                         const Work& work = {});

} // namespace yokai
