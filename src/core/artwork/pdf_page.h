// What a PDF says of a page that is taken for a picture. Unit: mm.
#pragma once

#include "base/file.h"

#include <optional>

namespace yokai {

bool looksLikePdf(const Bytes& bytes);

struct PdfPageFacts {
    int pages = 0;
    double width = 0, height = 0; // as it is seen; 0 where there is no such page
};
// None where it cannot be read: damaged, or locked by a password.
std::optional<PdfPageFacts> pdfPageFacts(const Bytes& bytes, int page);

} // namespace yokai
