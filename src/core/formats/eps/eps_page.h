// An EPS as the page that it draws.
#pragma once

#include "base/file.h"
#include "base/work.h"

#include <string>

namespace yokai {

// The page as PDF, by Ghostscript. Throws Error(Input) where that is not installed or makes no page of it; `name` is put in the line.
Bytes epsAsPdf(const Bytes& eps, const std::string& name, const Work& work = {});

} // namespace yokai
