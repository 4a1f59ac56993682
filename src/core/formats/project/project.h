// The .yokai file: a zip with job.json and the original pictures.
//
// The JSON follows the specs' lists of fields (base/fields.h); lengths are whole ticks
// (see length.h), so a job comes back exactly as it was. Older formats are read, a file
// from a newer Yokai is refused rather than half understood. Saving the same job twice
// gives the same bytes.
#pragma once

#include "job/job.h"

#include <filesystem>

namespace yokai {

Bytes writeProject(const Job& job);
// Throws Error(Input), naming what is wrong; `name` is put in the line.
Job readProject(const Bytes& bytes, const std::string& name);

void saveProject(const Job& job, const std::filesystem::path& path);
Job openProject(const std::filesystem::path& path);

// As far as it can be understood: of a file from a newer Yokai, one that is damaged or cut short. Throws Error(Input)
// where there is no job in it at all.
struct OpenedJob {
    Job job;
    std::vector<std::string> leftOut; // what, where and why; empty: nothing
};
OpenedJob openWhatCanBe(const std::filesystem::path& path);

// Work between two saves, as a folder: job.json, written anew each time, and the pictures, each written once; so a changed
// number writes a few kilobytes. Whenever it is broken off, what lies there is the job before or the one after.
void keepWork(const Job& job, const std::filesystem::path& folder);
Job openWork(const std::filesystem::path& folder);

} // namespace yokai
