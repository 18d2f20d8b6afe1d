#include "elbowroom/collision/pair_audit.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <chrono>
#include <cmath>
#include <map>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/base/random.hpp"
#include "elbowroom/base/table.hpp"
#include "elbowroom/base/units.hpp"
#include "elbowroom/model/posture_text.hpp"

namespace er {
namespace {

constexpr double kMargin = 1e-9;  // m; covers the rounding of poses and sums

// Two parts that may be checked, and how fast they can close in on each other.
struct PartPair {
  int moving = 0;
  int other = 0;          // a moving part, or a standing one
  bool standing = false;  // which of the two
  Posture lever;
};

// Two bodies: all pairs of their parts, and what is found of them.
struct BodyPair {
  std::vector<PartPair> parts;
  AuditedPair audited;
};

class Auditor {
 public:
  Auditor(const Cell& cell, const std::string& arm, const PairAuditOptions& options)
      : cell_(cell), query_(cell, arm), options_(options), parts_(query_) {
    require_ranges(query_.arm());
    collect();
  }

  PairAudit run() {
    const auto began = std::chrono::steady_clock::now();
    sample();
    PairAudit out;
    for (auto& [names, one] : pairs_) {
      judge(one);
      out.pairs.push_back(std::move(one.audited));
    }
    add_unchecked(out);
    std::stable_sort(
        out.pairs.begin(), out.pairs.end(),
        [](const AuditedPair& a, const AuditedPair& b) { return a.verdict < b.verdict; });
    out.samples = options_.samples;
    out.unseen_share = 3.0 / options_.samples;
    out.seconds = std::chrono::duration<double>(std::chrono::steady_clock::now() - began).count();
    return out;
  }

 private:
  const MovingPart& moving(int index) const {
    return query_.pairs().moving[static_cast<std::size_t>(index)];
  }
  const StandingPart& standing(int index) const {
    return query_.pairs().standing[static_cast<std::size_t>(index)];
  }

  void collect() {
    const CheckedPairs& all = query_.pairs();
    for (const StandingPart& part : all.standing)
      standing_boxes_.push_back(AlignedBox::of(part.shape, part.pose));
    for (int m = 0; m < static_cast<int>(all.moving.size()); ++m) {
      if (moving(m).lever.isZero(0.0)) continue;  // the base meets what it is bolted to
      for (int s = 0; s < static_cast<int>(all.standing.size()); ++s) {
        const int body = standing(s).body;
        if (all.meant[static_cast<std::size_t>(m)][static_cast<std::size_t>(body)]) continue;
        pairs_[{moving(m).body, body}].parts.push_back({m, s, true, moving(m).lever});
      }
    }
    for (const SelfPair& pair : all.self)
      pairs_[{moving(pair.first).body, moving(pair.second).body}].parts.push_back(
          {pair.first, pair.second, false, pair.lever});
    for (auto& [names, one] : pairs_) {
      one.audited.first = query_.name(names.first);
      one.audited.second = query_.name(names.second);
      one.audited.nearest = std::numeric_limits<double>::infinity();
    }
  }

  [[nodiscard]] double distance_of(const PartPair& pair) const {
    const MovingPart& a = moving(pair.moving);
    const Pose& pose = parts_.pose(pair.moving);
    if (pair.standing) {
      const StandingPart& b = standing(pair.other);
      return distance(a.shape, pose, b.shape, b.pose).distance - b.margin;
    }
    return distance(a.shape, pose, moving(pair.other).shape, parts_.pose(pair.other)).distance;
  }

  // A quick lower bound from boxes along the world's axes.
  [[nodiscard]] double box_gap(const PartPair& pair) const {
    const AlignedBox& a = parts_.box(pair.moving);
    if (!pair.standing) return a.gap_to(parts_.box(pair.other));
    return a.gap_to(standing_boxes_[static_cast<std::size_t>(pair.other)]) -
           standing(pair.other).margin;
  }

  void sample() {
    const Arm& arm = query_.arm();
    RandomStream random(options_.seed);
    const Progress& progress = options_.supervision.progress;
    for (int n = 0; n < options_.samples; ++n) {
      if (n % 256 == 0 && progress)
        progress(static_cast<double>(n) / options_.samples, "sampling postures");
      const Posture q = random.between(arm.search_lower(), arm.search_upper());
      parts_.place_at(query_, q);
      for (auto& [names, one] : pairs_) look(q, one);
    }
  }

  void look(const Posture& q, BodyPair& bodies) const {
    AuditedPair& pair = bodies.audited;
    // Exact distances matter only below what is nearest so far, and for whether they meet.
    double nearest = std::numeric_limits<double>::infinity();
    for (const PartPair& one : bodies.parts) {
      const double gap = box_gap(one);
      if (gap > 0.0 && gap >= std::min(nearest, pair.nearest)) continue;
      nearest = std::min(nearest, distance_of(one));
    }
    if (nearest <= 0.0) ++pair.met;
    if (nearest < pair.nearest) {
      pair.nearest = nearest;
      pair.posture = q;
    }
  }

  void judge(BodyPair& bodies) {
    AuditedPair& pair = bodies.audited;
    if (pair.met == options_.samples) {
      pair.verdict = PairVerdict::always_meets;
    } else if (pair.met > 0) {
      pair.verdict = PairVerdict::meets;
    } else {
      const double proved = prove_apart(bodies.parts);
      pair.verdict = proved > 0.0 ? PairVerdict::kept_apart : PairVerdict::not_seen;
      pair.proved_distance = std::max(0.0, proved);
    }
  }

  // The least distance proved over the whole range, or -1 when the budget does not suffice.
  double prove_apart(const std::vector<PartPair>& parts) {
    struct PostureBox {
      Posture middle;
      Posture half;
    };
    const Arm& arm = query_.arm();
    std::vector<PostureBox> open{{0.5 * (arm.search_lower() + arm.search_upper()),
                                  0.5 * (arm.search_upper() - arm.search_lower())}};
    // A continuous joint's range is one turn, which is all there is.
    double least = std::numeric_limits<double>::infinity();
    Posture lever = Posture::Zero(arm.dof());
    for (const PartPair& one : parts) lever = lever.cwiseMax(one.lever);
    for (int boxes = 0; !open.empty(); ++boxes) {
      if (boxes >= options_.proof_boxes) return -1.0;
      const PostureBox box = open.back();
      open.pop_back();
      parts_.place_at(query_, box.middle);
      double floor = std::numeric_limits<double>::infinity();
      for (const PartPair& one : parts) {
        const double closing = one.lever.dot(box.half) + kMargin;
        const double gap = box_gap(one);
        floor = std::min(floor, (gap > closing ? gap : distance_of(one)) - closing);
      }
      if (floor > 0.0) {
        least = std::min(least, floor);
        continue;
      }
      int widest = 0;
      lever.cwiseProduct(box.half).maxCoeff(&widest);
      if (lever[widest] * box.half[widest] < 1e-6) return -1.0;
      for (const double side : {-0.5, 0.5}) {
        PostureBox half = box;
        half.half[widest] *= 0.5;
        half.middle[widest] += side * box.half[widest];
        open.push_back(half);
      }
    }
    return least;
  }

  void add_unchecked(PairAudit& out) const {
    const Arm& arm = query_.arm();
    for (const auto& [a, b] : query_.pairs().joined_links) {
      const bool solid = !arm.links()[static_cast<std::size_t>(a)].parts.empty() &&
                         !arm.links()[static_cast<std::size_t>(b)].parts.empty();
      if (solid)
        out.pairs.push_back(
            {link_name(arm, a), link_name(arm, b), PairVerdict::joined, 0, 0, 0, {}});
    }
    for (const MeantContact& contact : cell_.contacts())
      out.pairs.push_back({contact.first, contact.second, PairVerdict::meant, 0, 0, 0, {}});
  }

  Cell cell_;
  CellQuery query_;
  PairAuditOptions options_;
  PartPoses parts_;
  std::vector<AlignedBox> standing_boxes_;
  std::map<std::pair<int, int>, BodyPair> pairs_;  // by the indices of the two bodies
};

// Names of the arm's own links go without its name.
std::vector<std::string> names_with(const PairAudit& audit, PairVerdict verdict, const Arm& arm) {
  const std::string prefix = arm.name() + ".";
  const auto plain = [&](const std::string& name) {
    return name.rfind(prefix, 0) == 0 ? name.substr(prefix.size()) : name;
  };
  std::vector<std::string> names;
  for (const AuditedPair& pair : audit.pairs)
    if (pair.verdict == verdict) names.push_back(plain(pair.first) + "-" + plain(pair.second));
  return names;
}

}  // namespace

std::string_view name_of(PairVerdict verdict) {
  switch (verdict) {
    case PairVerdict::meets:
      return "can meet";
    case PairVerdict::not_seen:
      return "not seen to meet";
    case PairVerdict::kept_apart:
      return "kept apart";
    case PairVerdict::always_meets:
      return "always meets";
    case PairVerdict::joined:
      return "joined";
    case PairVerdict::meant:
      return "meant";
  }
  return "unknown";
}

PairAudit audit_pairs(const Cell& cell, const std::string& arm, const PairAuditOptions& options) {
  if (options.samples < 1) throw InputError("an audit needs at least one sample");
  return Auditor(cell, arm, options).run();
}

int PairAudit::count(PairVerdict verdict) const {
  return static_cast<int>(std::count_if(pairs.begin(), pairs.end(), [&](const AuditedPair& pair) {
    return pair.verdict == verdict;
  }));
}

std::string PairAudit::summary(const Arm& arm) const {
  return fmt::format(
      "{}: {} pairs can meet, {} were not seen to meet, {} are proved apart, {} always meet, {} "
      "joined, {} meant",
      arm.name(), count(PairVerdict::meets), count(PairVerdict::not_seen),
      count(PairVerdict::kept_apart), count(PairVerdict::always_meets), count(PairVerdict::joined),
      count(PairVerdict::meant));
}

std::string PairAudit::report(const Arm& arm, bool all) const {
  std::string out = summary(arm) + "\n";
  Table table({"<first", "<second", "<verdict", "met in", "nearest mm", "proved mm"});
  // What stands in the cell, with the links that can meet it and those that cannot.
  std::map<std::string, std::map<PairVerdict, std::vector<std::string>>> standing;
  const std::string prefix = arm.name() + ".";
  for (const AuditedPair& pair : pairs) {
    if (pair.verdict == PairVerdict::joined || pair.verdict == PairVerdict::meant) continue;
    if (!all && pair.second.rfind(prefix, 0) != 0) {
      standing[pair.second][pair.verdict].push_back(pair.first.substr(prefix.size()));
      continue;
    }
    const bool proved = pair.verdict == PairVerdict::kept_apart;
    table.row({pair.first, pair.second, std::string(name_of(pair.verdict)),
               fmt::format("{:.2f} %", 100.0 * pair.met / samples),
               fmt::format("{:.1f}", to_mm(pair.nearest)),
               proved ? fmt::format("{:.1f}", to_mm(pair.proved_distance)) : "-"});
  }
  out += table.text();
  Table bodies({"<what stands there", "<can meet", "<not seen to meet", "<proved apart"});
  for (const auto& body : standing) {
    const auto list = [&](PairVerdict verdict) {
      const auto found = body.second.find(verdict);
      return found == body.second.end() ? "-" : fmt::format("{}", fmt::join(found->second, ", "));
    };
    bodies.row({body.first, list(PairVerdict::meets), list(PairVerdict::not_seen),
                list(PairVerdict::kept_apart)});
  }
  if (!standing.empty()) out += "\n" + bodies.text();
  out +=
      wrapped_list("  never checked, being joined: ", names_with(*this, PairVerdict::joined, arm));
  out += wrapped_list("  never checked, being meant: ", names_with(*this, PairVerdict::meant, arm));
  if (!standing.empty()) out += "  --all lists each of these pairs with its figures\n";
  return out + fmt::format(
                   "  {} postures, drawn evenly over the ranges, in {:.1f} s; with 95 % confidence "
                   "a pair "
                   "not seen to meet meets in under {:.3f} % of all postures\n",
                   samples, seconds, 100.0 * unseen_share);
}

}  // namespace er
