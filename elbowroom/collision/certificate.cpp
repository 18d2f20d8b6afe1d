#include "elbowroom/collision/certificate.hpp"

#include <fmt/format.h>

#include <cmath>

#include "elbowroom/base/input_error.hpp"
#include "elbowroom/base/units.hpp"

namespace er {
namespace {

// A stretch gets no shorter than this share of its line.
constexpr double kShortest = 1.0 / (1 << 24);

std::vector<PartName> names_of_parts(const CheckedPairs& pairs, const auto& parts) {
  std::vector<PartName> names;
  for (const auto& part : parts) {
    const std::string& body = pairs.bodies[static_cast<std::size_t>(part.body)];
    const int number = names.empty() || names.back().body != body ? 0 : names.back().part + 1;
    names.push_back({body, number});
  }
  return names;
}

// Two parts that must keep apart. The second is of the arm, too, or stands.
struct Pair {
  int first = 0;
  int second = 0;
  bool stands = true;
  const Posture* lever = nullptr;
};

class Certifier {
 public:
  Certifier(const CellQuery& query, const std::vector<Posture>& waypoints,
            const CertifyOptions& options, const Supervision& supervision)
      : query_(query), options_(options), supervision_(supervision), parts_(query) {
    out_.clearance = options.clearance;
    out_.waypoints = waypoints;
    const CheckedPairs& pairs = query.pairs();
    out_.parts = names_of_parts(pairs, pairs.moving);
    const std::vector<PartName> standing = names_of_parts(pairs, pairs.standing);
    out_.parts.insert(out_.parts.end(), standing.begin(), standing.end());
  }

  Verdict<Certificate> run() {
    const int lines = static_cast<int>(out_.waypoints.size()) - 1;
    for (line_ = 0; line_ < lines && reason_.text.empty(); ++line_) {
      if (supervision_.progress)
        supervision_.progress(static_cast<double>(line_) / lines, "writing down the evidence");
      if (supervision_.stop.stop_requested())
        return Reason{Cause::stopped, "no: told to stop before all evidence was written down"};
      const auto at = static_cast<std::size_t>(line_);
      start_ = out_.waypoints[at];
      step_ = out_.waypoints[at + 1] - start_;
      travel_ = step_.cwiseAbs();
      split(0.0, 1.0, all_pairs());
    }
    if (!reason_.text.empty()) return reason_;
    return std::move(out_);
  }

 private:
  [[nodiscard]] std::vector<Pair> all_pairs() const {
    const CheckedPairs& pairs = query_.pairs();
    std::vector<Pair> all;
    for (int i = 0; i < static_cast<int>(pairs.moving.size()); ++i) {
      const auto part = static_cast<std::size_t>(i);
      for (int s = 0; s < static_cast<int>(pairs.standing.size()); ++s) {
        const int body = pairs.standing[static_cast<std::size_t>(s)].body;
        if (!pairs.meant[part][static_cast<std::size_t>(body)])
          all.push_back({i, s, true, &pairs.moving[part].lever});
      }
    }
    for (const SelfPair& pair : pairs.self)
      all.push_back({pair.first, pair.second, false, &pair.lever});
    return all;
  }

  // What is not settled over the whole of a stretch is handed to its halves.
  void split(double from, double to, const std::vector<Pair>& pairs) {
    const double middle = 0.5 * (from + to);
    const double half = 0.5 * (to - from);
    parts_.place_at(query_, start_ + middle * step_);
    std::vector<Pair> open;
    for (const Pair& pair : pairs) {
      const double travel = half * pair.lever->dot(travel_) + kMotionMargin;
      if (!is_settled(pair, from, to, travel)) open.push_back(pair);
      if (!reason_.text.empty()) return;
    }
    if (open.empty()) return;
    split(from, middle, open);
    if (reason_.text.empty()) split(middle, to, open);
  }

  bool is_settled(const Pair& pair, double from, double to, double travel) {
    const CheckedPairs& all = query_.pairs();
    const MovingPart& a = all.moving[static_cast<std::size_t>(pair.first)];
    const auto second = static_cast<std::size_t>(pair.second);
    const Shape& shape = pair.stands ? all.standing[second].shape : all.moving[second].shape;
    const double margin = pair.stands ? all.standing[second].margin : 0.0;
    const Pose& pose_a = parts_.pose(pair.first);
    const Pose& pose_b = pair.stands ? all.standing[second].pose : parts_.pose(pair.second);
    const double needed = out_.clearance + travel;
    const double between =
        (pose_a.position - pose_b.position).norm() - a.radius - bounding_radius(shape) - margin;
    if (between > needed) return true;
    const Separation apart = distance(a.shape, pose_a, shape, pose_b);
    const double kept = apart.lower_bound - margin;
    const int second_name = pair.second + (pair.stands ? static_cast<int>(all.moving.size()) : 0);
    if (kept > needed) {
      out_.stretches.push_back(
          {line_, from, to, pair.first, second_name, apart.normal, kept, travel});
      if (out_.stretches.size() > options_.most_stretches)
        refuse(pair, 0.5 * (from + to), kept,
               fmt::format("the path runs too close by something to be written down in {} "
                           "stretches",
                           options_.most_stretches));
      return true;
    }
    if (kept <= out_.clearance || to - from < kShortest)
      refuse(pair, 0.5 * (from + to), kept, "the path comes too near");
    return false;
  }

  void refuse(const Pair& pair, double at, double distance, const std::string& what) {
    const CheckedPairs& all = query_.pairs();
    const auto second = static_cast<std::size_t>(pair.second);
    const int body = pair.stands ? all.standing[second].body : all.moving[second].body;
    reason_ = {
        Cause::in_collision,
        fmt::format("no: {}: {} at {:.2f} % of move {}", what,
                    query_.describe({.distance = distance,
                                     .first = all.moving[static_cast<std::size_t>(pair.first)].body,
                                     .second = body},
                                    out_.clearance),
                    100.0 * at, line_ + 1),
        {{"line", static_cast<double>(line_), ""}, {"at", at, ""}, {"distance", distance, "m"}}};
  }

  const CellQuery& query_;
  const CertifyOptions& options_;
  const Supervision& supervision_;
  PartPoses parts_;
  Certificate out_;
  int line_ = 0;
  Posture start_;
  Posture step_;
  Posture travel_;
  Reason reason_ = {Cause::in_collision, ""};
};

}  // namespace

Verdict<Certificate> certify(const CellQuery& query, const std::vector<Posture>& waypoints,
                             const CertifyOptions& options, const Supervision& supervision) {
  if (waypoints.size() < 2) throw InputError("a path needs at least two waypoints");
  for (const Posture& waypoint : waypoints)
    query.arm().check_posture(waypoint, "a waypoint of the path");
  if (!(options.clearance >= 0.0) || !std::isfinite(options.clearance))
    throw InputError(
        fmt::format("the clearance must be zero or more, found {} mm", to_mm(options.clearance)));
  return Certifier(query, waypoints, options, supervision).run();
}

}  // namespace er
