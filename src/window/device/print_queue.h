// A printer of the system's, through CUPS: a PDF goes to its queue as it is, to be printed at 100 % and on the paper it is made for.
// (Options: PWG 5100.13, print-scaling; RFC 8011, media and copies.)
#pragma once

#include "base/file.h"

#include <string>

namespace yokai {

struct PrintOrder {
    std::string queue, title;
    int copies = 1;
    double width = 210, height = 297; // of the paper, mm
    bool colour = true;
};

// The queue's number for it. Throws Error(Device) where there is no such queue, or it takes nothing.
int sendToQueue(const PrintOrder& order, const Bytes& pdf);

} // namespace yokai
