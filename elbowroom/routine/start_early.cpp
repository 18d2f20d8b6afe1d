#include "elbowroom/routine/start_early.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <map>

#include "elbowroom/base/units.hpp"
#include "elbowroom/collision/curve_sweep.hpp"
#include "elbowroom/model/arms_as_one.hpp"

namespace er {
namespace {

constexpr double kGrain = 0.02;  // s between starts that are tried, and between looks
constexpr std::size_t kMostAskedAtOnce = 48;
constexpr double kShortest = 1e-9;  // s: no stretch of time shorter than this is looked at

// What of a piece is different from one step to another: which grip or release was its last.
constexpr int kAsFound = -1;

class Early {
 public:
  Early(const Cell& found, PlannedRoutine& planned, const Supervision& supervision)
      : found_(found),
        planned_(planned),
        supervision_(supervision),
        arms_(planned.routine.arms()),
        placed_(arms_.size()) {}

  void place_all() {
    for (std::size_t i = 0; i < count();) {
      std::size_t end = i + 1;
      while (!step(i).step.together.empty() && end < count() &&
             step(end).step.together == step(i).step.together)
        ++end;
      place(i, end);
      i = end;
    }
  }

 private:
  [[nodiscard]] std::size_t count() const { return planned_.steps.size(); }
  [[nodiscard]] PlannedStep& step(std::size_t i) const { return planned_.steps[i]; }
  [[nodiscard]] std::size_t arm_of(std::size_t i) const {
    const std::string& name = planned_.routine.arm_of(step(i).step);
    return static_cast<std::size_t>(std::find(arms_.begin(), arms_.end(), name) - arms_.begin());
  }

  // Steps i to end begin together.
  void place(std::size_t i, std::size_t end) {
    if (supervision_.progress)
      supervision_.progress(static_cast<double>(i) / static_cast<double>(count()),
                            "timing " + step(i).step.name);
    double own = 0.0;  // when the arms are done with what they do before
    for (std::size_t k = i; k < end; ++k)
      if (!placed_[arm_of(k)].empty()) own = std::max(own, step(placed_[arm_of(k)].back()).ends());
    std::string waits_for;
    double earliest = own;
    if (step(i).signals > signals_) {
      signals_ = step(i).signals;
      known_from_ = over_;
    }
    if (known_from_ > earliest) {
      earliest = known_from_;
      waits_for = "a signal is read when all steps before are over";
    }
    const auto wait_for = [&](std::size_t other) {
      if (step(other).ends() <= earliest) return;
      earliest = step(other).ends();
      waits_for =
          fmt::format("step {}, {}, has to be over", step(other).number, step(other).step.name);
    };
    for (std::size_t k = i; k < end; ++k)
      for (const std::size_t other : needed_by(k)) wait_for(other);
    const double latest = std::max(earliest, over_);
    double begins = earliest;
    const auto put = [&](double time) {
      for (std::size_t k = i; k < end; ++k) step(k).begins = time;
    };
    first_look_ = 0.0;
    for (int n = 0;; ++n) {
      begins = std::min(earliest + kGrain * n, latest);
      if (supervision_.stop.stop_requested()) begins = latest;
      put(begins);
      // Where all others are done, everything stands as it was planned.
      if (begins >= latest) break;
      std::string meets = meeting(i, end);
      if (meets.empty()) break;
      waits_for = std::move(meets);
    }
    for (std::size_t k = i; k < end; ++k) {
      const auto& mine = placed_[arm_of(k)];
      step(k).waits = begins - (mine.empty() ? 0.0 : step(mine.back()).ends());
      step(k).waits_for = step(k).waits > 0.0 ? waits_for : std::string{};
      placed_[arm_of(k)].push_back(k);
      over_ = std::max(over_, step(k).ends());
    }
  }

  // Steps of other arms that have to be over first.
  [[nodiscard]] std::vector<std::size_t> needed_by(std::size_t i) const {
    std::vector<std::size_t> out;
    const PlannedStep& one = step(i);
    for (const std::string& name : one.step.after) {
      const int number = planned_.routine.waited_for(one.number - 1, name) + 1;
      for (std::size_t k = 0; k < i; ++k)
        if (step(k).number == number) out.push_back(k);
    }
    const auto concerns = [&](const std::string& piece) {
      const auto names = [&](const std::string& name) {
        return name == piece || name.ends_with("." + piece);
      };
      const auto* grip = std::get_if<Grip>(&one.step.action);
      const auto* release = std::get_if<Release>(&one.step.action);
      return (grip != nullptr && grip->piece == piece) ||
             (release != nullptr && release->piece == piece) ||
             std::any_of(one.excused.begin(), one.excused.end(), [&](const MeantContact& pair) {
               return names(pair.first) || names(pair.second);
             });
    };
    for (std::size_t k = 0; k < i; ++k)
      if (arm_of(k) != arm_of(i) && is_event(k) && concerns(piece_of(k))) out.push_back(k);
    return out;
  }

  [[nodiscard]] bool is_event(std::size_t i) const { return step(i).grips || step(i).leaves; }
  [[nodiscard]] const std::string& piece_of(std::size_t i) const {
    return step(i).grips ? step(i).grips->piece : std::get<Release>(step(i).step.action).piece;
  }

  // A stretch of time in which every arm does one thing and no piece changes hands.
  struct Stretch {
    double from = 0.0;
    double to = 0.0;
    std::vector<int> doing = {};  // the step of each arm; -1: it rests

    [[nodiscard]] double middle() const { return 0.5 * (from + to); }
  };

  // What would be too near if steps i to end began as they are put; "" when it is proved that
  // nothing is.
  std::string meeting(std::size_t i, std::size_t end) {
    for (std::size_t k = i; k < end; ++k) placed_[arm_of(k)].push_back(k);
    std::string out = meeting_from(step(i).begins);
    for (std::size_t k = i; k < end; ++k) placed_[arm_of(k)].pop_back();
    return out;
  }

  // Looks now and then, first where two met the last time; then it is proved.
  std::string meeting_from(double begins) {
    const std::vector<Stretch> stretches = stretches_from(begins);
    for (const Stretch& one : stretches)
      if (const double time = begins + first_look_; one.from <= time && time <= one.to)
        if (std::string met = seen_at(query_in(one), time); !met.empty()) return met;
    for (const Stretch& one : stretches) {
      const Asked& asked = query_in(one);
      const int looks = static_cast<int>(std::ceil((one.to - one.from) / kGrain));
      for (int n = 0; n <= looks; ++n) {
        const double time = one.from + (one.to - one.from) * n / looks;
        std::string met = seen_at(asked, time);
        if (met.empty()) continue;
        first_look_ = time - begins;
        return met;
      }
    }
    for (const Stretch& one : stretches)
      if (std::string unproved = proof_fails(one); !unproved.empty()) return unproved;
    return {};
  }

  // Those from a time on in which some arm moves.
  [[nodiscard]] std::vector<Stretch> stretches_from(double from) const {
    std::vector<double> times;
    for (const auto& mine : placed_)
      for (const std::size_t k : mine)
        for (const double time : {step(k).begins, step(k).ends()})
          if (time > from) times.push_back(time);
    std::sort(times.begin(), times.end());
    std::vector<Stretch> out;
    for (const double time : times) {
      if (time - from <= kShortest) continue;
      Stretch one{from, time};
      for (std::size_t a = 0; a < arms_.size(); ++a) one.doing.push_back(doing(a, one.middle()));
      if (std::any_of(one.doing.begin(), one.doing.end(), [](int k) { return k >= 0; }))
        out.push_back(std::move(one));
      from = time;
    }
    return out;
  }

  [[nodiscard]] int doing(std::size_t arm, double time) const {
    for (const std::size_t k : placed_[arm])
      if (step(k).begins <= time && time < step(k).ends()) return static_cast<int>(k);
    return -1;
  }
  // The last step that it has begun by then.
  [[nodiscard]] int last_begun(std::size_t arm, double time) const {
    int out = -1;
    for (const std::size_t k : placed_[arm])
      if (step(k).begins <= time + kShortest) out = static_cast<int>(k);
    return out;
  }
  [[nodiscard]] Posture posture_of(std::size_t arm, double time) const {
    const int last = last_begun(arm, time);
    if (last < 0) return planned_.starts[arm];
    const PlannedStep& one = step(static_cast<std::size_t>(last));
    return one.motion.at(time - one.begins).position;
  }

  struct Asked {
    CellQuery query;
    double clearance = 0.0;
  };

  std::string seen_at(const Asked& asked, double time) const {
    std::vector<Posture> postures;
    for (std::size_t a = 0; a < arms_.size(); ++a) postures.push_back(posture_of(a, time));
    const Posture all = side_by_side(postures);
    if (asked.query.is_free(all, asked.clearance)) return {};
    return fmt::format("{} at {}", asked.query.describe(asked.query.nearest(all), asked.clearance),
                       text_time(time));
  }

  std::string proof_fails(const Stretch& stretch) {
    const Asked& asked = query_in(stretch);
    std::vector<StartedCurve> curves;
    const double length = stretch.to - stretch.from;
    for (std::size_t a = 0; a < arms_.size(); ++a) {
      if (stretch.doing[a] < 0) {
        curves.push_back({0.0, at_rest(posture_of(a, stretch.from), length)});
        continue;
      }
      const PlannedStep& one = step(static_cast<std::size_t>(stretch.doing[a]));
      const double from = std::max(0.0, stretch.from - one.begins);
      curves.push_back({0.0, one.motion.cut(from, std::min(from + length, one.duration()))});
    }
    SweepMemory memory(asked.query);
    const CurveSweep sweep =
        sweep_curve(asked.query, side_by_side(curves, length), asked.clearance, memory);
    if (sweep.free) return {};
    return fmt::format("{} at {}", asked.query.describe(sweep.blocking, asked.clearance),
                       text_time(stretch.from + sweep.at));
  }

  // How the arms may stand to each other, and to pieces that are elsewhere than when their steps
  // were planned.
  const Asked& query_in(const Stretch& stretch) {
    const double middle = stretch.middle();
    std::vector<int> key = stretch.doing;
    for (std::size_t a = 0; a < arms_.size(); ++a) key.push_back(last_begun(a, middle));
    std::vector<std::size_t> events;  // done by then, by the time of their end
    for (const auto& mine : placed_)
      for (const std::size_t k : mine)
        if (is_event(k) && step(k).ends() <= middle) events.push_back(k);
    std::stable_sort(events.begin(), events.end(),
                     [&](std::size_t a, std::size_t b) { return step(a).ends() < step(b).ends(); });
    for (const std::size_t k : events) key.push_back(-2 - static_cast<int>(k));
    const auto found = asked_.find(key);
    if (found != asked_.end()) return found->second;
    if (asked_.size() == kMostAskedAtOnce) asked_.clear();  // each holds a map of space
    return asked_.emplace(key, asked(stretch.doing, events, middle)).first->second;
  }

  Asked asked(const std::vector<int>& doing_now, const std::vector<std::size_t>& events,
              double time) const {
    Cell cell = found_;
    std::map<std::string, int> now;  // what happened last to each piece
    for (const std::size_t k : events) {
      const std::string& piece = piece_of(k);
      now[piece] = static_cast<int>(k);
      cell = cell_after(cell, step(k), arms_[arm_of(k)]);
    }
    double clearance = 0.0;
    std::vector<MeantContact> may_touch;
    const auto add_all = [&](int k) {
      if (k < 0 || k >= static_cast<int>(count())) return;
      const std::vector<MeantContact>& excused = step(static_cast<std::size_t>(k)).excused;
      may_touch.insert(may_touch.end(), excused.begin(), excused.end());
    };
    for (std::size_t a = 0; a < arms_.size(); ++a) {
      add_all(doing_now[a]);
      const int last = last_begun(a, time);
      if (doing_now[a] >= 0) {
        clearance = std::max(clearance, step(static_cast<std::size_t>(doing_now[a])).clearance);
      } else {
        // At rest it touches what it touched when it came, and what it will when it goes.
        add_all(last);
        add_all(next_of(a, last));
      }
      for (const Body& piece : cell.pieces())
        if (last_event(now, piece.name) == event_in_plan(last, doing_now[a] >= 0, piece.name))
          excuse(cell.arm(arms_[a]), piece.name, may_touch);
    }
    const Cell all = with_arms_as_one(cell, arms_).with_known_contacts(may_touch);
    return {CellQuery::between_arms(all, name_as_one(arms_)), clearance + planned_.uncertainty};
  }

  static int last_event(const std::map<std::string, int>& now, const std::string& piece) {
    const auto found = now.find(piece);
    return found == now.end() ? kAsFound : found->second;
  }

  // What had happened last to a piece, in the order of the list, when a step was planned, or after
  // it was done.
  [[nodiscard]] int event_in_plan(int last, bool during, const std::string& piece) const {
    int out = kAsFound;
    for (int k = 0; k < (during ? last : last + 1); ++k)
      if (is_event(static_cast<std::size_t>(k)) && piece_of(static_cast<std::size_t>(k)) == piece)
        out = k;
    return out;
  }

  [[nodiscard]] int next_of(std::size_t arm, int last) const {
    for (std::size_t k = static_cast<std::size_t>(last + 1); k < count(); ++k)
      if (arm_of(k) == arm) return static_cast<int>(k);
    return -1;
  }

  static void excuse(const Arm& arm, const std::string& piece, std::vector<MeantContact>& out) {
    for (int l = 0; l < static_cast<int>(arm.links().size()); ++l)
      out.push_back({link_name(arm, l), piece});
  }

  const Cell& found_;
  PlannedRoutine& planned_;
  const Supervision& supervision_;
  std::vector<std::string> arms_;
  std::vector<std::vector<std::size_t>> placed_;  // steps of each arm, in their order
  double over_ = 0.0;                             // when all that is placed is over
  std::size_t signals_ = 0;                       // read so far,
  double known_from_ = 0.0;                       // and since when
  double first_look_ = 0.0;                       // s into a step: where two met the last time
  std::map<std::vector<int>, Asked> asked_;
};

}  // namespace

void set_times_in_turn(PlannedRoutine& planned) {
  double time = 0.0;
  double longest = 0.0;
  for (std::size_t i = 0; i < planned.steps.size(); ++i) {
    PlannedStep& one = planned.steps[i];
    const bool joins = i > 0 && !one.step.together.empty() &&
                       one.step.together == planned.steps[i - 1].step.together;
    if (!joins) {
      time += longest;
      longest = 0.0;
    }
    one.begins = time;
    longest = std::max(longest, one.duration());
  }
}

void start_early(const Cell& found, PlannedRoutine& planned, const Supervision& supervision) {
  Early(found, planned, supervision).place_all();
}

}  // namespace er
