// Audits of pairs kept from one run to the next, for as long as the geometry is the same.
#pragma once

#include <filesystem>
#include <optional>

#include "elbowroom/collision/pair_audit.hpp"

namespace er {

/// Where audits are kept: `elbowroom` in the folder XDG_CACHE_HOME, or in .cache at home; empty
/// when there is neither.
std::filesystem::path cache_folder();

/// An audit of an earlier run with the same cell and options, if one is kept in `folder`. Files go
/// by a digest, but the whole description, corners of hulls included, is compared. One that cannot
/// be read or is not whole counts as none.
std::optional<PairAudit> kept_audit(const std::filesystem::path& folder, const Cell& cell,
                                    const std::string& arm, const PairAuditOptions& options);

/// Keeps an audit. A folder that cannot be written to is no error: nothing is kept then.
void keep_audit(const std::filesystem::path& folder, const Cell& cell, const std::string& arm,
                const PairAuditOptions& options, const PairAudit& audit);

}  // namespace er
