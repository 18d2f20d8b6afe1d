#include <fmt/format.h>

#include <algorithm>
#include <limits>

#include "elbowroom/draw/ghosts.hpp"
#include "elbowroom/files/stance_writing.hpp"
#include "elbowroom/reach/posture_search.hpp"
#include "elbowroom/reach/reach.hpp"
#include "verb.hpp"

namespace er::cli {

namespace {

constexpr std::size_t kMostGhosts = 6;

std::vector<MarkedPlace> asked_place(const Target& target) {
  const AtPlace* place = target.first_place();
  if (place == nullptr) return {};
  return {{.at = place->at}};
}

bool is_among(const Arm& arm, const std::vector<Ghost>& ghosts, const Posture& posture) {
  return std::any_of(ghosts.begin(), ghosts.end(), [&](const Ghost& other) {
    return is_same_posture(arm, posture, other.posture);
  });
}

Ghost refused(const Posture& posture, const Nearest& nearest, double clearance) {
  Ghost ghost{.posture = posture, .warning = true};
  if (nearest.distance <= clearance) ghost.contacts.push_back(nearest.point_first);
  return ghost;
}

// The best posture solid; other distinct ones as ghosts; those refused in red, with the points that
// are too near something.
Image picture_of(const CellQuery& query, const Reach& found, double clearance) {
  const Arm& arm = query.arm();
  std::vector<Ghost> ghosts;
  const Posture& best = found.solutions.front().posture;
  for (const ReachSolution& one : found.solutions)
    if (ghosts.size() < kMostGhosts && !is_same_posture(arm, one.posture, best) &&
        !is_among(arm, ghosts, one.posture))
      ghosts.push_back({.posture = one.posture});
  for (const ReachSolution& one : found.refused)
    if (ghosts.size() < 2 * kMostGhosts)
      ghosts.push_back(refused(one.posture, one.nearest, clearance));
  return render_with_ghosts(query.cell(), arm, best, ghosts, {.places = asked_place(found.target)});
}

// Of a no: the arm where it starts, what came nearest to a yes in red, and how far the tool stays
// from the place.
Image picture_of(const CellQuery& query, const Posture& from, const Target& target,
                 const Reason& reason, double clearance) {
  const CellQuery meant = with_meant_contacts(query, target);
  std::vector<Ghost> ghosts;
  for (const Posture& posture : reason.postures)
    if (ghosts.size() < kMostGhosts && !is_among(query.arm(), ghosts, posture))
      ghosts.push_back(refused(posture, meant.nearest(posture), clearance));
  std::vector<MarkedPlace> places = asked_place(target);
  if (!places.empty() && !ghosts.empty()) {
    const TargetOnArm on_arm(query.arm(), target);
    const Vector3 tip =
        frame_pose(query.arm(), on_arm[0].link, on_arm[0].frame, ghosts.front().posture).position;
    if ((tip - places.front().at.position).norm() > 1e-3) places.front().missed_from = tip;
  }
  return render_with_ghosts(query.cell(), query.arm(), from, ghosts, {.places = places});
}

}  // namespace

Verb add_reach(VerbParser parser) {
  struct Own {
    Arguments a;
    std::string from;
    int starts = ReachOptions{}.starts;
    std::string save;
    int pick = 1;
    bool all = false;
    bool explain = false;
    bool check = false;
  };
  auto own = std::make_shared<Own>();
  own->a.clearance = "0 mm";
  add_cell(parser, own->a);
  add_target(parser, own->a);
  add_clearance(parser, own->a);
  parser.text("--from", own->from, "stance or joint values that travel is counted from (home)");
  parser.number("--starts", own->starts, "starts of the numeric search");
  parser.flag("--all", own->all, "list every posture, not only the best 12");
  add_out(parser, own->a, ".png (postures as ghosts; of a no, what came nearest)");
  parser.flag("--explain", own->explain,
              "say what is asked for, why the first posture comes before each other, and how clear "
              "each of its links is");
  parser.flag("--check", own->check,
              "put every posture back through the transforms of all links, and say how far off");
  parser.text("--save", own->save,
              "write a posture into the cell file as a stance of this name; all else stays");
  parser.number("--pick", own->pick, "which posture of the list to save");
  parser.goes_with("--pick", {"--save"});
  parser.footer(
      "--out draws the best posture, up to six others as ghosts, and refused ones in red; of a "
      "no,\n"
      "     what came nearest to a yes, with the place as three axes.\n"
      "Cost = travel (largest turn, in half turns) + room (0 at 50 mm of clearance, 1 at contact)\n"
      "     + limits (0 with all joints in mid range, 1 with one at its end); lowest is best.\n"
      "Wishes weigh these and add dexterity (0 where the tool moves 100 mm a radian whichever "
      "way,\n"
      "     1 where some way not at all), load (share of a motor's torque), branch, near. Room may "
      "be\n"
      "     that of all links (room_of = every_link), against some only (room_against = itself or\n"
      "     surroundings).\n"
      "examples:\n"
      "  elbowroom reach demo/glaze.cell.yaml --targets demo/kiln.targets.yaml --target upper_2\n"
      "  elbowroom reach demo/glaze.cell.yaml --place \"400 mm, 0 mm, 700 mm\" "
      "--rpy \"180 deg, 0 deg, 0 deg\"\n"
      "  elbowroom reach demo/glaze.cell.yaml --place \"400 mm, 0 mm, 700 mm\" "
      "--rpy \"180 deg, 0 deg, 0 deg\" --leave \"turn = free\" --explain");
  return {
      parser, [own] {
        const Cell cell = read_cell(own->a);
        const Arm& arm = for_option("--arm", [&]() { return std::cref(cell.arm(own->a.arm)); });
        const auto target = read_target(cell, arm, own->a);
        if (!target)
          throw InputError("no target is given",
                           "add --target with --targets, or --place and --rpy, or --require");
        if (own->starts < 1 || own->starts > 1000000)
          throw InputError(fmt::format("--starts: expected 1 to 1000000, found {}", own->starts));
        check_endings(own->a, {".png"});
        const CellQuery query(cell, arm.name());
        ReachOptions options{.starts = own->starts, .clearance = read_clearance(own->a)};
        if (!own->from.empty()) options.from = read_posture_argument(arm, own->from, "--from");
        const double clearance = std::max(options.clearance, target->clearance());
        const auto found = reach(query, *target, options);
        if (!found) {
          Answer answer = no(found.reason());
          if (own->a.outs.empty()) return answer;
          const Posture start = options.from.size() > 0 ? options.from : arm.home_or_zero();
          const Image picture = picture_of(query, start, *target, found.reason(), clearance);
          for (const std::string& file : own->a.outs) write_png(file, picture);
          answer.text += wrote(own->a.outs);
          return answer;
        }
        const std::size_t most = own->all ? std::numeric_limits<std::size_t>::max() : 12;
        std::string text = found->summary(query) + "\n" + found->report(query, most);
        if (own->explain) text += found->explanation(query, most);
        if (own->check) text += found->check(query);
        if (!own->a.outs.empty()) {
          const Image picture = picture_of(query, *found, clearance);
          for (const std::string& file : own->a.outs) write_png(file, picture);
          text += wrote(own->a.outs);
        }
        if (!own->save.empty()) {
          const auto count = static_cast<int>(found->solutions.size());
          if (own->pick < 1 || own->pick > count)
            throw InputError(fmt::format("--pick: expected 1 to {}, found {}", count, own->pick));
          // A picoradian is rounding, and no one wants to read it.
          const Posture exact = found->solutions[static_cast<std::size_t>(own->pick - 1)].posture;
          save_stance(own->a.cell, arm, own->save, (exact * 1e12).array().round() / 1e12);
          text += fmt::format("  posture {} is stance {} of {} in {} now\n", own->pick, own->save,
                              arm.name(), own->a.cell);
        }
        return Answer{Exit::yes, text, json_of(query, *found)};
      }};
}

}  // namespace er::cli
