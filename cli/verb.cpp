#include "verb.hpp"

#include <fmt/format.h>
#include <unistd.h>

#include <algorithm>
#include <chrono>
#include <filesystem>

#include "elbowroom/base/text.hpp"
#include "elbowroom/base/units.hpp"
#include "elbowroom/files/cell_file.hpp"
#include "elbowroom/files/target_file.hpp"
#include "elbowroom/files/target_reading.hpp"
#include "elbowroom/kinematics/named_frame.hpp"

namespace er::cli {
namespace {

Vector3 read_vector(const std::string& text, Dimension dimension, const std::string& option) {
  const auto items = split_at_commas(text);
  if (items.size() != 3)
    throw InputError(fmt::format("{}: expected three values with commas between, found {}", option,
                                 items.size()),
                     "write them like \"400 mm, 0 mm, 650 mm\"");
  return for_option(option, [&] {
    return Vector3(parse_quantity(items[0], dimension), parse_quantity(items[1], dimension),
                   parse_quantity(items[2], dimension));
  });
}

// "cup_3 by from_above": the cell with the piece in the arm's first tool.
Cell with_piece_in_hand(const Cell& cell, const Arguments& arguments) {
  const std::size_t by = arguments.holding.find(" by ");
  const std::string piece(trimmed(std::string_view(arguments.holding).substr(0, by)));
  const std::string grasp =
      by == std::string::npos
          ? ""
          : std::string(trimmed(std::string_view(arguments.holding).substr(by + 4)));
  const std::string arm = for_option("--arm", [&] { return cell.arm(arguments.arm).name(); });
  return for_option("--holding", [&] { return cell.with_held(piece, arm, "", grasp); });
}

// The value that an option's text stands for, read as a file would be.
Node as_node(const std::string& text, const std::string& option) {
  return parse_document(text, option);
}

Target find_target(const std::vector<Target>& targets, const std::string& name) {
  std::vector<std::string> known;
  for (const Target& target : targets) {
    if (target.name() == name) return target;
    known.push_back(target.name());
  }
  throw unknown_name("target", name, known);
}

}  // namespace

NamedValue named_value(const std::string& text, const std::string& option,
                       const std::string& example) {
  const std::size_t equals = text.find('=');
  if (equals == std::string::npos)
    throw InputError(fmt::format("{}: '{}' does not say how much", option, text),
                     fmt::format("write it like {} \"{}\"", option, example));
  return {std::string(trimmed(std::string_view(text).substr(0, equals))),
          std::string(trimmed(std::string_view(text).substr(equals + 1)))};
}

Node settings_as_node(const std::vector<std::string>& settings, const std::string& option,
                      const std::string& example) {
  std::string out;
  for (const std::string& setting : settings) {
    const NamedValue one = named_value(setting, option, example);
    out += fmt::format("{}{}: {}", out.empty() ? "" : ", ", one.name, one.value);
  }
  return as_node("{" + out + "}", option);
}

Answer no(const Reason& reason) {
  return {Exit::no, fmt::format("{}\n", reason), json_object({{"reason", json_of(reason)}})};
}

void add_cell(VerbParser& parser, Arguments& arguments) {
  parser.text("CELL", arguments.cell, "the cell file")
      .text("--arm", arguments.arm, "which arm; may be left out where there is one")
      .text("--station", arguments.station, "stand the arm on one of its stations")
      .texts("--hold", arguments.holds,
             "hold a joint and move the others: \"rail = 300 mm\"; may be repeated")
      .text("--holding", arguments.holding,
            "a piece that the arm holds, and how: \"cup_3\" or \"cup_3 by from_above\"");
}

Cell read_cell(const Arguments& arguments) {
  Cell cell = load_cell(arguments.cell);
  if (!arguments.holding.empty()) cell = with_piece_in_hand(cell, arguments);
  if (arguments.station.empty() && arguments.holds.empty()) return cell;
  Arm arm = for_option("--arm", [&] { return cell.arm(arguments.arm); });
  if (!arguments.station.empty())
    arm = for_option("--station", [&] { return arm.at_station(arguments.station); });
  std::vector<HeldJoint> held;
  for (const std::string& text : arguments.holds) {
    const std::size_t equals = text.find('=');
    if (equals == std::string::npos)
      throw InputError(fmt::format("--hold: '{}' does not say where", text),
                       "write it like --hold \"rail = 300 mm\"");
    const std::string joint = std::string(trimmed(std::string_view(text).substr(0, equals)));
    Dimension dimension = dimension::angle;
    for (int k = 0; k < arm.dof(); ++k)
      if (arm.moving_joint(k).name == joint) dimension = value_dimension(arm.moving_joint(k).kind);
    for_option("--hold", [&] {
      held.push_back({joint, parse_quantity(text.substr(equals + 1), dimension)});
      return 0;
    });
  }
  return cell.with_arm(for_option("--hold", [&] { return arm.holding(held); }));
}

void add_target(VerbParser& parser, Arguments& arguments) {
  parser.text("--target", arguments.target, "a named target out of --targets")
      .text("--targets", arguments.targets, "a target file")
      .text("--place", arguments.place, "or where the tip is to be: \"x, y, z\" with units")
      .text("--rpy", arguments.rpy,
            "and how it is turned: \"roll, pitch, yaw\" about the fixed x, y, z in that order")
      .text("--in", arguments.frame, "the frame --place and --rpy are given in (world)")
      .text("--tool", arguments.tool, "which tool (the arm's first)")
      .texts("--leave", arguments.freedoms,
             "what the place leaves open, of a named target beside what its file does: \"turn = "
             "free\", \"x = [-20 mm, 20 mm]\", \"tilt = 5 "
             "deg\", \"standoff = 50 mm\"; may be repeated")
      .texts("--require", arguments.requires_,
             "one more requirement, as under require: in a target file; may be repeated")
      .texts("--off", arguments.off, "switch a requirement of the target off, by its name")
      .texts("--on", arguments.on, "switch one on that is off in the file")
      .texts("--wish", arguments.wishes,
             "what makes a posture better: \"dexterity = 1\", \"near = home\"; may be repeated");
  const std::vector<std::string> targets{"--target", "--place", "--require"};
  parser.goes_with("--targets", {"--target"})
      .not_beside("--place", {"--target"})
      .goes_with("--rpy", {"--place"})
      .goes_with("--leave", {"--place", "--target"})
      .goes_with("--in", {"--place", "--require"})
      .goes_with("--tool", {"--place", "--require"})
      .goes_with("--off", targets)
      .goes_with("--on", targets)
      .goes_with("--wish", targets);
}

void add_clearance(VerbParser& parser, Arguments& arguments) {
  parser.text("--clearance", arguments.clearance, "the least distance to keep");
}

void add_out(VerbParser& parser, Arguments& arguments, const std::string& endings) {
  parser.texts("--out", arguments.outs,
               "write to a file, by its ending: " + endings + "; may be repeated");
}

namespace {

// The target of --place and what goes with it, or of --require alone, if there is any.
std::optional<Target> placed_target(const Cell& cell, const Arm& arm, const Arguments& a) {
  if (a.place.empty()) {
    if (a.requires_.empty()) return std::nullopt;
    return Target{}.named("the target");
  }
  const std::string tool = for_option("--tool", [&] { return arm.tool(a.tool).name; });
  AtPlace place;
  place.at.position = read_vector(a.place, dimension::length, "--place");
  if (!a.rpy.empty()) {
    const Vector3 angles = read_vector(a.rpy, dimension::angle, "--rpy");
    place.at.rotation = rotation_from_rpy(angles[0], angles[1], angles[2]);
  }
  place.at = for_option("--in", [&] { return named_frame(cell, arm, a.frame); }) * place.at;
  read_leave(a, place);
  return Target{}.require({.name = "place", .of = tool, .holds = place}).named("the target");
}

// A named target with its place left open as --leave says.
void leave_open(const Arguments& a, Target& target) {
  std::optional<Requirement> placed;
  for (const Requirement& one : target.requirements()) {
    if (!one.on || !std::holds_alternative<AtPlace>(one.holds)) continue;
    if (placed)
      throw InputError(fmt::format("--leave: '{}' holds several places, {} and {}", target.name(),
                                   placed->name, one.name),
                       "switch all but one --off, or write it in the target file");
    placed = one;
  }
  if (!placed)
    throw InputError(fmt::format("--leave: '{}' holds no place", target.name()), "leave it out");
  read_leave(a, std::get<AtPlace>(placed->holds));
  target.changed(*placed);
}

// With what --require, --off, --on, --leave and --wish say.
Target adjusted(Target target, const Cell& cell, const Arm& arm, const Arguments& a) {
  for (const std::string& text : a.requires_) {
    const Node node = as_node(text, "--require");
    for_option("--require", [&] {
      return target.require(read_requirement(node, cell, arm, {.tool = a.tool, .frame = a.frame}))
          .name();
    });
  }
  for (const std::string& name : a.off)
    for_option("--off", [&] { return target.switched(name, false).name(); });
  for (const std::string& name : a.on)
    for_option("--on", [&] { return target.switched(name, true).name(); });
  if (!a.target.empty() && !a.freedoms.empty()) leave_open(a, target);
  if (!a.wishes.empty()) {
    const Node node = settings_as_node(a.wishes, "--wish", "dexterity = 1");
    target.wish(read_wishes(node, arm, target.wishes()));
  }
  return target;
}

}  // namespace

std::vector<Target> named_targets(const Cell& cell, const Arguments& a,
                                  const std::vector<std::string>& names) {
  if (a.targets.empty())
    throw InputError("--target names a target, but no target file is given",
                     "add --targets FILE, or give the pose outright with --place and --rpy");
  const std::vector<Target> known = load_targets(a.targets, cell);
  std::vector<Target> targets;
  for (const std::string& name : names) targets.push_back(find_target(known, name));
  return targets;
}

std::optional<Target> read_target(const Cell& cell, const Arm& arm, const Arguments& a) {
  const std::optional<Target> target =
      a.target.empty() ? placed_target(cell, arm, a) : named_targets(cell, a, {a.target}).front();
  if (!target) return target;
  return adjusted(*target, cell, arm, a);
}

std::vector<Target> read_any_target(const Cell& cell, const Arm& arm, const Arguments& a) {
  std::vector<Target> targets;
  if (!a.target.empty()) {
    targets = named_targets(cell, a, split_at_commas(a.target));
  } else if (const std::optional<Target> target = placed_target(cell, arm, a)) {
    targets.push_back(*target);
  }
  for (Target& target : targets) target = adjusted(std::move(target), cell, arm, a);
  return targets;
}

void read_leave(const Arguments& a, AtPlace& place) {
  if (a.freedoms.empty()) return;
  read_freedom(settings_as_node(a.freedoms, "--leave", "turn = free"), place);
}

std::vector<MeantContact> contacts_beyond(const Cell& cell, const CellQuery& query) {
  const auto& all = query.cell().contacts();
  return {all.begin() + static_cast<std::ptrdiff_t>(cell.contacts().size()), all.end()};
}

double read_clearance(const Arguments& arguments) {
  const double clearance = for_option(
      "--clearance", [&] { return parse_quantity(arguments.clearance, dimension::length); });
  if (clearance < 0.0) throw InputError("--clearance: it must be zero or more");
  return clearance;
}

Posture read_posture_argument(const Arm& arm, const std::string& text, const std::string& option) {
  const bool is_name = text.find(',') == std::string::npos && !text.empty() &&
                       std::isalpha(static_cast<unsigned char>(text[0])) != 0;
  if (is_name) return for_option(option, [&] { return arm.stance(text); });
  const auto items = split_at_commas(text);
  if (static_cast<int>(items.size()) != arm.dof())
    throw InputError(
        fmt::format("{}: found {} joint value{}, arm '{}' has {} moving joints", option,
                    items.size(), items.size() == 1 ? "" : "s", arm.name(), arm.dof()),
        "give a stance by name, or one value per moving joint with commas between");
  Posture posture(arm.dof());
  for (int k = 0; k < arm.dof(); ++k)
    posture[k] = for_option(option, [&] {
      return parse_quantity(items[static_cast<std::size_t>(k)],
                            value_dimension(arm.moving_joint(k).kind));
    });
  return posture;
}

void check_endings(const Arguments& arguments, const std::vector<std::string>& known) {
  check_endings("--out", arguments.outs, known);
}

void check_endings(const std::string& option, const std::vector<std::string>& files,
                   const std::vector<std::string>& known) {
  for (const std::string& file : files) {
    const std::string ending = std::filesystem::path(file).extension().string();
    if (std::find(known.begin(), known.end(), ending) == known.end())
      throw InputError(fmt::format("{} {}: the ending '{}' says no format that this verb writes",
                                   option, file, ending),
                       fmt::format("known: {}", fmt::join(known, ", ")));
  }
}

std::string wrote(const std::vector<std::string>& files) {
  std::string out;
  for (const std::string& file : files) out += "  wrote " + file + "\n";
  return out;
}

Progress progress_bar() {
  if (isatty(STDERR_FILENO) == 0) return {};
  struct Bar {
    std::chrono::steady_clock::time_point began = std::chrono::steady_clock::now();
    bool shown = false;
    ~Bar() {
      if (shown) fmt::print(stderr, "\r\033[K");
    }
  };
  return [bar = std::make_shared<Bar>()](double fraction, std::string_view doing) {
    if (std::chrono::steady_clock::now() - bar->began < std::chrono::milliseconds(500)) return;
    bar->shown = true;
    constexpr int kWidth = 30;
    const int full = static_cast<int>(fraction * kWidth);
    fmt::print(stderr, "\r\033[K[{:#<{}}{:.<{}}] {:3.0f} % {}", "", full, "", kWidth - full,
               100.0 * fraction, doing);
    std::fflush(stderr);
  };
}

}  // namespace er::cli
