#include "elbowroom/collision/pair_audit.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <map>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/base/random.hpp"
#include "elbowroom/base/stopwatch.hpp"
#include "elbowroom/base/table.hpp"
#include "elbowroom/base/units.hpp"
#include "elbowroom/model/posture_text.hpp"

namespace er {
namespace {

// What the second part of a pair belongs to.
enum class OtherSide { same_arm, standing, other_arm };

// Two parts that may be checked, and how fast they can close in on each other.
struct PartPair {
  int moving = 0;
  int other = 0;  // a moving part of the same or another arm, or a standing one
  OtherSide side = OtherSide::same_arm;
  Posture lever;
  std::size_t arm = 0;  // other_arm: which of the others
};

// Another arm of the cell, which moves through its whole range, too.
struct OtherMoving {
  OtherMoving(const Cell& cell, const std::string& name) : query(cell, name), parts(query) {}
  CellQuery query;
  PartPoses parts;
};

// The postures of all arms that a pair depends on: of the audited one, and of one other.
struct PostureBox {
  Posture middle;
  Posture half;
  Posture other_middle = {};
  Posture other_half = {};
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
    for (const Arm& other : cell.arms())
      if (other.name() != arm && other.dof() > 0) {
        require_ranges(other);
        others_.emplace_back(cell, other.name());
      }
    collect();
  }

  PairAudit run() {
    const Stopwatch watch;
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
    out.seconds = watch.seconds();
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
      standing_boxes_.push_back(aligned_box(part.shape, part.pose));
    for (int m = 0; m < static_cast<int>(all.moving.size()); ++m) {
      if (moving(m).lever.isZero(0.0)) continue;  // the base meets what it is bolted to
      for (int s = 0; s < static_cast<int>(all.standing.size()); ++s) {
        const int body = standing(s).body;
        if (moves_itself(query_.name(body))) continue;
        if (all.meant[static_cast<std::size_t>(m)][static_cast<std::size_t>(body)]) continue;
        pairs_[{query_.name(moving(m).body), query_.name(body)}].parts.push_back(
            {m, s, OtherSide::standing, moving(m).lever});
      }
      for (std::size_t o = 0; o < others_.size(); ++o) collect_with(m, o);
    }
    for (const SelfPair& pair : all.self)
      pairs_[{query_.name(moving(pair.first).body), query_.name(moving(pair.second).body)}]
          .parts.push_back({pair.first, pair.second, OtherSide::same_arm, pair.lever});
    for (auto& [names, one] : pairs_) {
      one.audited.first = names.first;
      one.audited.second = names.second;
      one.audited.nearest = std::numeric_limits<double>::infinity();
    }
  }

  // Links of other arms that can move are met where they can be, not where they stand at home.
  [[nodiscard]] bool moves_itself(const std::string& name) const {
    return std::any_of(others_.begin(), others_.end(), [&](const OtherMoving& other) {
      const auto& parts = other.query.pairs().moving;
      return std::any_of(parts.begin(), parts.end(), [&](const MovingPart& part) {
        return !part.lever.isZero(0.0) && other.query.name(part.body) == name;
      });
    });
  }

  void collect_with(int m, std::size_t o) {
    const CellQuery& other = others_[o].query;
    const auto& parts = other.pairs().moving;
    for (int p = 0; p < static_cast<int>(parts.size()); ++p) {
      const MovingPart& part = parts[static_cast<std::size_t>(p)];
      const std::string& name = other.name(part.body);
      if (part.lever.isZero(0.0) || cell_.contact_is_meant(query_.name(moving(m).body), name))
        continue;
      pairs_[{query_.name(moving(m).body), name}].parts.push_back(
          {m, p, OtherSide::other_arm, moving(m).lever, o});
    }
  }

  [[nodiscard]] double distance_of(const PartPair& pair) const {
    const MovingPart& a = moving(pair.moving);
    const Pose& pose = parts_.pose(pair.moving);
    if (pair.side == OtherSide::standing) {
      const StandingPart& b = standing(pair.other);
      return distance(a.shape, pose, b.shape, b.pose).distance - b.margin;
    }
    if (pair.side == OtherSide::other_arm) {
      const OtherMoving& other = others_[pair.arm];
      return distance(a.shape, pose, other_part(pair).shape, other.parts.pose(pair.other)).distance;
    }
    return distance(a.shape, pose, moving(pair.other).shape, parts_.pose(pair.other)).distance;
  }

  [[nodiscard]] const MovingPart& other_part(const PartPair& pair) const {
    return others_[pair.arm].query.pairs().moving[static_cast<std::size_t>(pair.other)];
  }

  // A quick lower bound from boxes along the world's axes.
  [[nodiscard]] double box_gap(const PartPair& pair) const {
    const AlignedBox& a = parts_.box(pair.moving);
    if (pair.side == OtherSide::same_arm) return a.gap_to(parts_.box(pair.other));
    if (pair.side == OtherSide::other_arm) return a.gap_to(others_[pair.arm].parts.box(pair.other));
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
      for (OtherMoving& other : others_)
        other.parts.place_at(other.query, random.between(other.query.arm().search_lower(),
                                                         other.query.arm().search_upper()));
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
      // Half of what was seen is often provable; anything at all is worth having.
      double proved = -1.0;
      for (const double share : {0.5, 0.25, 0.1, 0.0})
        if (proved <= 0.0) proved = prove_apart(bodies.parts, share * pair.nearest);
      pair.verdict = proved > 0.0 ? PairVerdict::kept_apart : PairVerdict::not_seen;
      pair.proved_distance = std::max(0.0, proved);
    }
  }

  // The least distance proved over the whole range, more than `aim`; or -1 when the budget does not
  // suffice.
  double prove_apart(const std::vector<PartPair>& parts, double aim) {
    const Arm& arm = query_.arm();
    // The other arm's joints come into it when the pair is with one of its links.
    OtherMoving* other =
        parts.front().side == OtherSide::other_arm ? &others_[parts.front().arm] : nullptr;
    std::vector<PostureBox> open{whole_range(arm, other)};
    // A continuous joint's range is one turn, which is all there is.
    double least = std::numeric_limits<double>::infinity();
    Posture lever = Posture::Zero(arm.dof());
    Posture other_lever = Posture::Zero(other == nullptr ? 0 : other->query.arm().dof());
    for (const PartPair& one : parts) {
      lever = lever.cwiseMax(one.lever);
      if (other != nullptr) other_lever = other_lever.cwiseMax(other_part(one).lever);
    }
    for (int boxes = 0; !open.empty(); ++boxes) {
      if (boxes >= options_.proof_boxes) return -1.0;
      const PostureBox box = open.back();
      open.pop_back();
      const double floor = floor_in(box, parts, other);
      if (floor > aim) {
        least = std::min(least, floor);
        continue;
      }
      if (!split(box, lever, other_lever, open)) return -1.0;
    }
    return least;
  }

  static PostureBox whole_range(const Arm& arm, const OtherMoving* other) {
    PostureBox box{arm.mid_range(), 0.5 * (arm.search_upper() - arm.search_lower())};
    if (other == nullptr) return box;
    const Arm& two = other->query.arm();
    box.other_middle = two.mid_range();
    box.other_half = 0.5 * (two.search_upper() - two.search_lower());
    return box;
  }

  // A lower bound on the distance of two bodies at all postures of the box.
  double floor_in(const PostureBox& box, const std::vector<PartPair>& parts, OtherMoving* other) {
    parts_.place_at(query_, box.middle);
    if (other != nullptr) other->parts.place_at(other->query, box.other_middle);
    double floor = std::numeric_limits<double>::infinity();
    for (const PartPair& one : parts) {
      double closing = one.lever.dot(box.half) + kMotionMargin;
      if (other != nullptr) closing += other_part(one).lever.dot(box.other_half);
      const double gap = box_gap(one);
      floor = std::min(floor, (gap > closing ? gap : distance_of(one)) - closing);
    }
    return floor;
  }

  // Halves the box across the joint that moves the pair most; false when that is next to nothing.
  static bool split(const PostureBox& box, const Posture& lever, const Posture& other_lever,
                    std::vector<PostureBox>& open) {
    int widest = 0;
    int other_widest = 0;
    const double most = lever.cwiseProduct(box.half).maxCoeff(&widest);
    const double other_most =
        other_lever.size() == 0 ? 0.0
                                : other_lever.cwiseProduct(box.other_half).maxCoeff(&other_widest);
    if (std::max(most, other_most) < 1e-6) return false;
    for (const double side : {-0.5, 0.5}) {
      PostureBox half = box;
      if (most >= other_most) {
        half.half[widest] *= 0.5;
        half.middle[widest] += side * box.half[widest];
      } else {
        half.other_half[other_widest] *= 0.5;
        half.other_middle[other_widest] += side * box.other_half[other_widest];
      }
      open.push_back(half);
    }
    return true;
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
  std::vector<OtherMoving> others_;
  std::map<std::pair<std::string, std::string>, BodyPair> pairs_;  // by the names of the bodies
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
