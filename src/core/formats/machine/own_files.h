// Machines and materials as files of their own: JSON by the same lists of fields as a job's, with lengths in mm, so that people write
// them too (docs/machine.schema.json, docs/material.schema.json).
#pragma once

#include "base/file.h"
#include "machine/machine.h"
#include "machine/material.h"

#include <filesystem>
#include <vector>

namespace yokai {

Bytes writeMachine(const Machine& machine);
Bytes writeMaterial(const Material& material);
// Throw Error(Input) with what is wrong and where.
Machine openMachine(const std::filesystem::path& path);
Material openMaterial(const std::filesystem::path& path);

// The samples, and those a maker keeps in folders under `own`; one kept under a sample's name takes its place. What cannot be read is
// left out.
struct OwnShelf {
    std::vector<Machine> machines;
    std::vector<Material> materials;
};
OwnShelf openShelf(const std::filesystem::path& own);
// Where they are kept: "yokai" in the user's data folder.
std::filesystem::path ownFolder();
// Keeps one there, in place of one with the same name. Throw Error(Output).
void keepMachine(const std::filesystem::path& own, const Machine& machine);
void keepMaterial(const std::filesystem::path& own, const Material& material);
// Takes one away again, if it was kept.
void dropMachine(const std::filesystem::path& own, const std::string& name);
void dropMaterial(const std::filesystem::path& own, const std::string& name);

// By name, or by the file of that name if it ends in .json. Throws Error(Usage) naming those there are.
Machine machineNamed(const std::string& nameOrFile, const std::filesystem::path& own);
Material materialNamed(const std::string& nameOrFile, const std::filesystem::path& own);

} // namespace yokai
