// What the verbs share: outputs made whole before the first is written, what a run took, and how it ends.
#pragma once

#include "formats/format.h"
#include "formats/project/project.h"
#include "options.h"
#include "report.h"

#include <string>
#include <utility>
#include <vector>

namespace yokai::batch {

double now(); // milliseconds
bool isJob(const std::string& path);

// All are made before the first is written, so that a failure leaves none half done.
class Outputs {
public:
    explicit Outputs(const Options& o) : options_(o) {}
    void add(const std::string& file, Job job, const Derived& derived);
    void add(const std::string& file, const Drawing& drawing, Content content);
    void add(const std::string& file, Bytes bytes) { files_.emplace_back(file, std::move(bytes)); }
    void write() const; // throws Error(Usage) where one is an input or another output

private:
    const Options& options_;
    std::vector<std::pair<std::string, Bytes>> files_;
};

Json timing(const Derived& d, double write, double total);
// 1, and the line that says why, where an error was found under --strict; else 0.
int strictCode(const Job& job, const Derived& d, bool strict, bool onSheet);
// Throws what keeps a piece, or the sheet, from being cut.
void requireSound(const Derived& d, bool onSheet);
// That, and what is to be written has something in it: throws Error(Input) where no cut line is left, or nothing finds place on the sheet.
void requireSomething(const Job& job, const Derived& d, bool onSheet);
// How a run ends that wrote: strictCode(), and at 0 what was lost in part and how many sheets it took, on standard error.
int endOf(const Job& job, const Derived& d, bool strict, bool onSheet);

} // namespace yokai::batch
