// A single spec as JSON text, for what a maker keeps under a name beside the jobs.
#pragma once

#include "job/job.h"

#include <optional>
#include <string>

namespace yokai {

// Of Media, MarkSpec, SpotNames and HandOffSpec. Reading gives nothing where the text is no such spec.
template <class T> std::string specText(const T& spec);
template <class T> std::optional<T> specFromText(const std::string& text);

} // namespace yokai
