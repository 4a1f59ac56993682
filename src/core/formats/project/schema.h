// The job file's JSON as a JSON Schema (draft 2020-12), made from the same lists of fields that write and read it.
#pragma once

#include <string>

namespace yokai {

std::string jobSchema();
// Of the files of machines and of materials, in which lengths are mm.
std::string machineSchema();
std::string materialSchema();

} // namespace yokai
