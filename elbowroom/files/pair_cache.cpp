#include "elbowroom/files/pair_cache.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <cstdlib>
#include <fstream>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/files/geometry_text.hpp"
#include "elbowroom/files/json.hpp"
#include "elbowroom/files/saved_file.hpp"
#include "elbowroom/files/write_file.hpp"

namespace er {
namespace {

// Changes whenever an audit would come out otherwise for the same cell.
constexpr const char* kMethod = "pairs 1";

constexpr std::array kVerdicts{PairVerdict::meets,      PairVerdict::not_seen,
                               PairVerdict::kept_apart, PairVerdict::always_meets,
                               PairVerdict::joined,     PairVerdict::meant};

std::string description_of(const Cell& cell, const std::string& arm,
                           const PairAuditOptions& options) {
  return fmt::format("{}\narm {}, {} samples, seed {}, {} boxes\n", kMethod, arm, options.samples,
                     options.seed, options.proof_boxes) +
         geometry_text(cell);
}

std::filesystem::path file_for(const std::filesystem::path& folder, const std::string& text) {
  return folder / fmt::format("pairs_{}.json", digest_of(text));
}

// Reads what json_of(PairAudit) writes.
AuditedPair pair_from(const Json& json, int samples) {
  AuditedPair pair;
  pair.first = json.at("first").get<std::string>();
  pair.second = json.at("second").get<std::string>();
  const auto name = json.at("verdict").get<std::string>();
  const auto verdict = std::find_if(kVerdicts.begin(), kVerdicts.end(),
                                    [&](PairVerdict one) { return name_of(one) == name; });
  if (verdict == kVerdicts.end()) throw InputError("unknown verdict of a pair");
  pair.verdict = *verdict;
  if (const auto met = json.find("met_share"); met != json.end()) {
    pair.met = static_cast<int>(std::lround(met->get<double>() * samples));
    // One that no sample came near has the text "infinite".
    const Json& nearest = json.at("nearest");
    pair.nearest =
        nearest.is_number() ? nearest.get<double>() : std::numeric_limits<double>::infinity();
    const auto posture = json.at("posture").get<std::vector<double>>();
    pair.posture = Eigen::Map<const Eigen::VectorXd>(posture.data(),
                                                     static_cast<Eigen::Index>(posture.size()));
  }
  if (const auto proved = json.find("proved_distance"); proved != json.end())
    pair.proved_distance = proved->get<double>();
  return pair;
}

}  // namespace

std::filesystem::path cache_folder() {
  if (const char* cache = std::getenv("XDG_CACHE_HOME"); cache != nullptr && *cache != '\0')
    return std::filesystem::path(cache) / "elbowroom";
  if (const char* home = std::getenv("HOME"); home != nullptr && *home != '\0')
    return std::filesystem::path(home) / ".cache" / "elbowroom";
  return {};
}

std::optional<PairAudit> kept_audit(const std::filesystem::path& folder, const Cell& cell,
                                    const std::string& arm, const PairAuditOptions& options) {
  if (folder.empty()) return std::nullopt;
  const std::string text = description_of(cell, arm, options);
  std::ifstream in(file_for(folder, text));
  if (!in) return std::nullopt;
  try {
    const Json json = Json::parse(in);
    if (json.at("description").get<std::string>() != text) return std::nullopt;
    const Json& kept = json.at("audit");
    PairAudit audit;
    audit.samples = options.samples;
    audit.unseen_share = kept.at("unseen_share").get<double>();
    audit.seconds = kept.at("seconds").get<double>();
    for (const Json& pair : kept.at("pairs")) audit.pairs.push_back(pair_from(pair, audit.samples));
    return audit;
  } catch (const std::exception&) {
    return std::nullopt;  // not whole; it is written anew
  }
}

void keep_audit(const std::filesystem::path& folder, const Cell& cell, const std::string& arm,
                const PairAuditOptions& options, const PairAudit& audit) {
  if (folder.empty()) return;
  const std::string text = description_of(cell, arm, options);
  std::error_code code;
  std::filesystem::create_directories(folder, code);
  try {
    write_file(file_for(folder, text),
               json_object({{"description", json_of(text)}, {"audit", json_of(audit)}}));
  } catch (const InputError&) {
    // Nothing is kept, and nothing is lost but time.
  }
}

}  // namespace er
