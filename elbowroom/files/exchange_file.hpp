// CAD exchange files (STEP, ISO 10303, and IGES): exact surfaces, laid out in triangles.
#pragma once

#include <filesystem>
#include <vector>

#include "elbowroom/model/surface.hpp"

namespace er {

/// By its ending, in whatever letters.
bool is_exchange_file(const std::filesystem::path& path);
bool is_iges_file(const std::filesystem::path& path);
/// Whether this build reads them: it does with -DELBOWROOM_EXCHANGE=ON, which needs OpenCASCADE.
bool reads_exchange_files();
/// Throws InputError where it does not, with what to do.
void check_reads_exchange_files(const std::filesystem::path& path);

/// A surface for each solid of the file, and each shell that belongs to none, with the name and
/// colour of the part it is, where the assembly puts it; in metres, whatever the unit that the file
/// states. How far its triangles are off is in Surface::off. The file may make the reader fail:
/// to be called in a process of its own (guarded). Throws InputError for what cannot be read, and
/// where less than so many different solids were: what is passed over would be missing from the
/// arm.
std::vector<Surface> triangles_of_exchange_file(const std::filesystem::path& path, int solids);

}  // namespace er
