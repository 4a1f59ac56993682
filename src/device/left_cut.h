// A cut that was not finished, kept so that it can be gone on with when the window that began it is no more: the program itself,
// as it was made for where the sheet lay, and how far it got.
#pragma once

#include "device/cut_run.h"

#include <filesystem>

namespace yokai {

struct LeftCut {
    std::string name; // of the job
    Machine machine;  // with its link
    Program program;
    std::size_t runs = 0; // that are done
    bool known = true;    // what is left; else it must be looked for on the sheet
};

// In a folder of its own, which holds one cut at a time. Throws Error(Output).
void keepCut(const std::filesystem::path& folder, const LeftCut& cut);
std::filesystem::path recordIn(const std::filesystem::path& folder); // for CutRun
// Nothing where none is left, or where what is left makes no sense.
std::optional<LeftCut> leftCut(const std::filesystem::path& folder);
void forgetCut(const std::filesystem::path& folder);

} // namespace yokai
