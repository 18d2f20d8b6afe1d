#include "elbowroom/files/step_reading.hpp"

#include <fmt/format.h>

#include <Eigen/Geometry>
#include <algorithm>
#include <cmath>
#include <numbers>
#include <tuple>

#include "elbowroom/files/find_file.hpp"
#include "elbowroom/files/reading.hpp"
#include "elbowroom/files/recorded_file.hpp"
#include "elbowroom/files/route_reading.hpp"
#include "elbowroom/files/svg_strokes.hpp"
#include "elbowroom/kinematics/named_frame.hpp"
#include "elbowroom/route/one_stroke.hpp"
#include "elbowroom/routine/drawing.hpp"

namespace er {
namespace {

using Keys = std::vector<std::string>;

const Keys& step_kinds() {
  static const Keys kKinds{"go",   "line",    "arc",  "turn", "circle", "trace", "turn_joints",
                           "grip", "release", "wait", "take", "put",    "draw"};
  return kKinds;
}

const Keys& settings() {
  static const Keys kSettings{"on_no",  "name",      "arm",   "after",   "together", "on",
                              "tool",   "clearance", "speed", "profile", "touch",    "tool_speed",
                              "steady", "keep",      "cost",  "improve", "leave"};
  return kSettings;
}

constexpr double kCusp = 1.75;  // rad

Keys with_keys(Keys keys, const Keys& more) {
  keys.insert(keys.end(), more.begin(), more.end());
  return keys;
}

// One name, or a list of them.
std::vector<std::pair<const Node*, std::string>> names_of(const Node& node, std::string_view what) {
  std::vector<std::pair<const Node*, std::string>> out;
  if (node.kind != Node::Kind::list) return {{&node, as_text(node, what)}};
  for (const Node& item : node.items) out.emplace_back(&item, as_text(item, what));
  if (out.empty()) throw node.error("an empty list leaves no way to do it", "name one at least");
  return out;
}

std::vector<std::string> texts_of(const Node& node, std::string_view what) {
  std::vector<std::string> out;
  for (auto& [place, name] : names_of(node, what)) out.push_back(std::move(name));
  return out;
}

// A trace is one smooth way. Poses that are far from their neighbours are a gap in a recording, and
// where the way turns back the tip would have to stop.
void check_trace(const std::vector<Pose>& poses) {
  if (poses.size() < 2)
    throw InputError(fmt::format("a trace needs two poses or more, found {}", poses.size()));
  std::vector<double> steps;
  for (std::size_t i = 0; i + 1 < poses.size(); ++i)
    steps.push_back((poses[i + 1].position - poses[i].position).norm());
  std::vector<double> sorted = steps;
  std::nth_element(sorted.begin(), sorted.begin() + static_cast<std::ptrdiff_t>(sorted.size() / 2),
                   sorted.end());
  const double usual = sorted[sorted.size() / 2];
  for (std::size_t i = 0; i < steps.size(); ++i)
    if (steps.size() >= 8 && steps[i] > 0.005 && steps[i] > 12.0 * usual)
      throw InputError(fmt::format("the trace has a gap of {} between poses {} and {}; others are "
                                   "{} apart",
                                   text_length(steps[i]), i + 1, i + 2, text_length(usual)),
                       "make two traces of it, or fill the gap");
  for (std::size_t i = 0; i + 2 < poses.size(); ++i) {
    const Vector3 before = poses[i + 1].position - poses[i].position;
    const Vector3 after = poses[i + 2].position - poses[i + 1].position;
    const double angle = std::atan2(before.cross(after).norm(), before.dot(after));
    if (before.norm() > 1e-5 && after.norm() > 1e-5 && angle > kCusp)
      throw InputError(
          fmt::format("the trace has a cusp at pose {}: it turns by {}", i + 2, text_angle(angle)),
          "make two traces of it, between which the tip comes to rest");
  }
}

const ArmContext& arm_context(const StepContext& context, const std::string& name,
                              const Node& place) {
  Keys names;
  for (const ArmContext& one : context.arms) {
    if (one.arm.name() == name) return one;
    names.push_back(one.arm.name());
  }
  throw place.placed(unknown_name("arm that takes part", name, names));
}

class StepReader {
 public:
  StepReader(const Node& node, const StepContext& context, const StepGroup& group)
      : node_(node), context_(context), own_(arm_of(node, context, group.arm)) {
    expect_keys(node, "a step", with_keys(step_kinds(), settings()));
    step_.of = group.of;
    step_.when = group.when;
    if (context.arms.size() > 1) step_.arm = own_.arm.name();
    step_.place = node.place;
    for (const Node::Entry& entry : node.entries) {
      if (std::find(step_kinds().begin(), step_kinds().end(), entry.key) == step_kinds().end())
        continue;
      if (move_ != nullptr)
        throw node.error(fmt::format("a step does one thing, found {} and {}", kind_, entry.key),
                         "make two steps of it");
      move_ = &entry.value;
      kind_ = entry.key;
    }
    if (move_ == nullptr)
      throw node.error("this step does not say what it does",
                       fmt::format("give it one of {}", fmt::join(step_kinds(), ", ")));
  }

  std::vector<Step> read() {
    read_settings();
    std::vector<Step> out = at_place(*move_, [&] { return read_move(); });
    if (const Node* name = node_.find("name")) {
      const std::string text = as_text(*name, "a step name");
      for (Step& step : out) step.name = out.size() == 1 ? text : text + ": " + step.name;
    }
    if (const Node* after = node_.find("after")) out.front().after = read_after(*after);
    if (const Node* together = node_.find("together")) {
      if (kind_ != "go")
        throw together->error("only free moves (go) are made together with another arm");
      out.front().together = as_text(*together, "a name that the other arm's step has, too");
    }
    return out;
  }

 private:
  // Whose step it is: its own `arm`, its group's, or the only one.
  static const ArmContext& arm_of(const Node& node, const StepContext& context,
                                  const std::string& of_group) {
    const Node* own = node.find("arm");
    if (own == nullptr && of_group.empty()) {
      if (context.arms.size() == 1) return context.arms.front();
      Keys names;
      for (const ArmContext& one : context.arms) names.push_back(one.arm.name());
      throw node.error("several arms take part, and this step does not say whose it is",
                       fmt::format("add arm: {}", fmt::join(names, " or arm: ")));
    }
    return arm_context(context, own != nullptr ? as_text(*own, "an arm name") : of_group,
                       own != nullptr ? *own : node);
  }

  Keys read_after(const Node& after) const {
    if (context_.arms.size() == 1)
      throw after.error("a step waits for another arm, and here is one alone",
                        "leave after: out; the steps of an arm follow each other");
    return texts_of(after, "the name of a step of another arm");
  }

  void read_settings() {
    const auto get = [&](const char* key) { return node_.find(key); };
    if (const Node* on = get("on")) step_.on = as_yes(*on);
    if (const Node* tool = get("tool")) {
      step_.tool = as_text(*tool, "a tool name");
      at_place(*tool, [&] { return own_.arm.tool(step_.tool).link_index; });
    } else {
      step_.tool = own_.defaults.tool;
    }
    if (const Node* clearance = get("clearance")) step_.clearance = read_clearance(*clearance);
    if (const Node* speed = get("speed")) step_.speed = read_speed(*speed);
    if (const Node* profile = get("profile"))
      step_.profile =
          at_place(*profile, [&] { return profile_named(as_text(*profile, "a profile")); });
    if (const Node* speed = get("tool_speed")) {
      step_.tool_speed = as_quantity(*speed, per(dimension::length, 1));
      if (!(*step_.tool_speed > 0.0)) throw speed->error("a tool speed must be above zero");
    }
    if (const Node* steady = get("steady")) {
      step_.steady = as_yes(*steady);
      if (step_.steady && !step_.tool_speed)
        throw steady->error("a steady speed needs to be said", "add tool_speed: 60 mm/s");
    }
    if (const Node* leave = get("leave")) read_leave(*leave);
    if (const Node* touch = get("touch"); touch != nullptr && kind_ == "go")
      throw touch->error("a free move touches nothing",
                         "go near it, and touch it with a line, or let a target mean the contact");
    if (const Node* touch = get("touch"))
      for (const Node& pair : as_list(*touch, "pairs that may touch")) read_touch(pair);
    read_way();
  }

  // What a tool move leaves open all along.
  void read_leave(const Node& leave) {
    const Keys moves{"line", "arc", "turn", "circle", "trace", "draw"};
    if (std::find(moves.begin(), moves.end(), kind_) == moves.end())
      throw leave.error("only moves along a path of the tool leave something open on the way",
                        "a target says itself what it leaves open");
    expect_keys(leave, "what a move leaves open", {"turn", "tilt"});
    if (const Node* turn = leave.find("turn"))
      step_.freedom.turn = read_band(*turn, dimension::angle);
    if (const Node* tilt = leave.find("tilt")) {
      step_.freedom.tilt = as_quantity(*tilt, dimension::angle);
      if (!(step_.freedom.tilt > 0.0) || step_.freedom.tilt > 1.0)
        throw tilt->error("a tool may lean by more than 0 and up to 57 deg along its way");
    }
  }

  void read_touch(const Node& pair) {
    const std::vector<Node>& two = as_list(pair, "a pair that may touch");
    if (two.size() != 2)
      throw pair.error(fmt::format("a pair has two names, found {}", two.size()),
                       "write it like [teasel.gripper, cup_1]");
    step_.contacts.named.push_back({as_text(two[0], "a name"), as_text(two[1], "a name")});
    at_place(pair, [&] { return context_.cell.with_contacts(step_.contacts.named).name(); });
  }

  // What only free moves can be told: rules on the way, and what it should be short of.
  void read_way() {
    const bool free = kind_ == "go" || kind_ == "take" || kind_ == "put";
    for (const char* key : {"cost", "improve"})
      if (const Node* found = node_.find(key); found && !free)
        throw found->error(
            fmt::format("only free moves have a choice of way: '{}' is for go, take and put", key));
    for (const char* key : {"tool_speed", "steady"})
      if (const Node* found = node_.find(key);
          found && (kind_ == "grip" || kind_ == "release" || kind_ == "wait"))
        throw found->error(fmt::format("'{}' is of moves of the tool", key));
    if (const Node* keep = node_.find("keep")) read_keep(*keep, free);
    if (const Node* cost = node_.find("cost")) step_.cost = read_route_cost(*cost);
    if (const Node* improve = node_.find("improve")) step_.improve = read_rounds(*improve);
  }

  // Speeds of frames are kept by every move, all else by those that have a choice of way.
  void read_keep(const Node& keep, bool free) {
    if (kind_ == "grip" || kind_ == "release" || kind_ == "wait")
      throw keep.error("'keep' is of moves");
    KeptRules kept;
    for (const Node& item : as_list(keep, "keep")) {
      read_kept(item, context_.cell, arm_for(item), own_.defaults, kept);
      if (!free && !kept.rules.empty())
        throw item.error(
            "only free moves have a choice of way: but for speeds of frames 'keep' is for go, take "
            "and put");
    }
    step_.keep = std::move(kept.rules);
    step_.keep_speeds = std::move(kept.speeds);
  }

  // The arm that a rule is read against: a rule of a piece needs an arm that holds it. How does not
  // matter, since it is about the piece's own frame.
  Arm arm_for(const Node& rule) const {
    const Node* of = rule.find("of");
    const std::string name = of == nullptr ? std::string{} : as_text(*of, "a tool, link or piece");
    for (const Body& piece : context_.cell.pieces())
      if (piece.name == name)
        return context_.cell.with_held(name, own_.arm.name(), step_.tool, Pose{})
            .arm(own_.arm.name());
    return own_.arm;
  }

  std::vector<Step> read_move() {
    if (kind_ == "go") return {read_go()};
    if (kind_ == "line") return {read_line()};
    if (kind_ == "arc") return {read_arc()};
    if (kind_ == "turn" || kind_ == "circle") return {read_turn()};
    if (kind_ == "trace") return read_trace();
    if (kind_ == "turn_joints") return {read_turn_joints()};
    if (kind_ == "grip") return {read_grip()};
    if (kind_ == "release") return {read_release()};
    if (kind_ == "wait") return {read_wait()};
    if (kind_ == "draw") return read_draw();
    return kind_ == "take" ? read_take() : read_put();
  }

  Step made(std::string name, Action action) const {
    Step out = step_;
    out.name = std::move(name);
    out.action = std::move(action);
    return out;
  }

  // A target of the file, with the piece whose frame it is in.
  AtTarget target_named(const Node& place, const std::string& name) const {
    Keys known;
    for (const Target& target : own_.targets) known.push_back(target.name());
    const auto found = std::find(known.begin(), known.end(), name);
    if (found == known.end()) throw place.placed(unknown_name("target", name, known));
    const auto index = static_cast<std::size_t>(found - known.begin());
    AtTarget out{own_.targets[index], own_.target_pieces[index], {}};
    if (!out.piece.empty()) out.piece_at = named_frame(context_.cell, own_.arm, out.piece);
    return out;
  }

  std::vector<Goal> read_targets_of(const Node& node) const {
    std::vector<Goal> out;
    for (const auto& [place, name] : names_of(node, "a target's name"))
      out.emplace_back(target_named(*place, name));
    return out;
  }

  static std::string names_text(const Node& node) {
    return fmt::format("{}", fmt::join(texts_of(node, "a name"), " or "));
  }

  Step read_go() {
    if (is_word(*move_, "start")) return made("go back to the start", FreeMove{{AtStance{}}});
    if (move_->find("piece") != nullptr) return read_carry();
    expect_keys(*move_, "a free move", {"stance", "target"});
    FreeMove free;
    std::string name;
    for (const Node::Entry& entry : move_->entries) {
      if (entry.key == "target") {
        for (Goal& goal : read_targets_of(entry.value)) free.to.push_back(std::move(goal));
      } else {
        for (const auto& [place, stance] : names_of(entry.value, "a stance")) {
          at_place(*place, [&, &stance_name = stance] { return own_.arm.stance(stance_name); });
          free.to.emplace_back(AtStance{stance});
        }
      }
      name += (name.empty() ? "" : " or ") + names_text(entry.value);
    }
    if (free.to.empty())
      throw move_->error("a free move needs an end",
                         "write go: {stance: home}, go: {target: NAME} or go: start");
    return made("go to " + name, std::move(free));
  }

  // A held piece to a place of its own.
  Step read_carry() const {
    const std::string piece = piece_of(with_rotation_keys({"at", "in", "turn"}));
    const auto [at, turn] = read_piece_place();
    return made("carry " + piece, FreeMove{{PieceAt{piece, at, turn}}});
  }

  // Where a piece is to be, and how it may be turned there.
  std::pair<Pose, Band> read_piece_place() const {
    const std::string in = read_frame_name();
    if (in == "tool")
      throw move_->find("in")->error("a piece's place is not given in the tool's frame");
    Pose at;
    at.position = as_vector(need(*move_, "a piece's place", "at"), dimension::length, "a place");
    if (const auto rotation = read_rotation(*move_, own_.arm.rotations())) at.rotation = *rotation;
    Band turn;
    if (const Node* band = move_->find("turn")) turn = read_band(*band, dimension::angle);
    return {named_frame(context_.cell, own_.arm, in) * at, turn};
  }

  Step read_line() {
    expect_keys(*move_, "a straight move", with_rotation_keys({"target", "by", "in"}));
    const Node* target = move_->find("target");
    const Node* by = move_->find("by");
    const auto rotation = read_rotation(*move_, own_.arm.rotations());
    if (target != nullptr) {
      if (move_->entries.size() != 1)
        throw move_->error("a straight move to a target says no more than that",
                           "leave the other keys out");
      return made("line to " + names_text(*target), StraightMove{read_targets_of(*target)});
    }
    if (by == nullptr && !rotation)
      throw move_->error("a straight move needs an end",
                         "write line: {target: NAME} or line: {by: [0, 0, 50 mm], in: tool}");
    RelativeMove move;
    if (by != nullptr) move.by = as_vector(*by, dimension::length, "a way");
    if (rotation) move.turned = *rotation;
    move.in = read_frame_name();
    return made(fmt::format("line along {}", move.in.empty() ? "world" : move.in), move);
  }

  std::string read_frame_name() const {
    const Node* in = move_->find("in");
    if (in == nullptr) return {};
    const std::string name = as_text(*in, "a frame name");
    if (name != "tool") at_place(*in, [&] { return named_frame(context_.cell, own_.arm, name); });
    return name;
  }

  Step read_arc() {
    expect_keys(*move_, "an arc", {"through", "in", "target"});
    const Node& target = need(*move_, "an arc", "target");
    const std::string in = read_frame_name();
    if (in == "tool")
      throw move_->find("in")->error("the point of an arc is not given in the tool's frame");
    const Pose frame = named_frame(context_.cell, own_.arm, in);
    const Vector3 through =
        frame * as_vector(need(*move_, "an arc", "through"), dimension::length, "a point");
    return made("arc to " + names_text(target),
                ArcMove{through, target_named(target, as_text(target, "a target's name"))});
  }

  Step read_turn() {
    const bool circle = kind_ == "circle";
    expect_keys(*move_, circle ? "a circle" : "a turn", {"axis", "at", "in", "by", "tool"});
    TurnMove turn;
    turn.tool_turns = !circle;
    turn.in = read_frame_name();
    if (const Node* axis = move_->find("axis")) turn.axis = read_direction(*axis);
    if (const Node* at = move_->find("at"))
      turn.point = as_vector(*at, dimension::length, "a point");
    else if (circle)
      throw move_->error("a circle needs its middle", "add at: [x, y, z]");
    turn.angle = 2.0 * std::numbers::pi;
    if (const Node* by = move_->find("by"))
      turn.angle = as_quantity(*by, dimension::angle);
    else if (!circle)
      throw move_->error("a turn needs its angle", "add by: 90 deg");
    if (const Node* tool = move_->find("tool")) {
      turn.tool_turns = is_word(*tool, "turns");
      if (!turn.tool_turns && !is_word(*tool, "stays"))
        throw tool->error("the tool turns or stays", "write tool: turns, or tool: stays");
    }
    return made(circle ? "circle" : "turn", turn);
  }

  // The tool goes to the beginning of a trace first.
  // From a table of poses, or along the one stroke of an SVG file on a plane.
  std::vector<Step> read_trace() {
    const Node* svg = move_->find("svg");
    expect_keys(
        *move_, "a trace",
        svg == nullptr ? Keys{"file", "in"} : with_rotation_keys({"svg", "width", "in", "at"}));
    const Node& file = svg != nullptr ? *svg : need(*move_, "a trace", "file");
    const auto path = find_file(as_text(file, "a file name"), context_.file, file.place);
    TraceMove trace{svg != nullptr ? poses_of_svg(path) : poses_of_table(path)};
    at_place(file, [&] {
      check_trace(trace.poses);
      return ToolTrace(trace.poses).end();
    });
    Step there =
        made("go to the start of the trace",
             FreeMove{{AtTraceStart{trace.poses, step_.freedom, step_.contacts.named}}, true});
    there.freedom = {};
    there.tool_speed.reset();
    there.steady = false;
    there.contacts = {};
    return {std::move(there), made("trace " + path.filename().string(), std::move(trace))};
  }

  std::vector<Pose> poses_of_table(const std::filesystem::path& path) const {
    const std::string in = read_frame_name();
    if (in == "tool") throw move_->find("in")->error("a trace is not given in the tool's frame");
    const Pose frame = named_frame(context_.cell, own_.arm, in);
    std::vector<Pose> poses = load_timed_poses(path, own_.arm.rotations()).poses;
    for (Pose& pose : poses) pose = frame * pose;
    return poses;
  }

  std::vector<Pose> poses_of_svg(const std::filesystem::path& path) const {
    const Node& width = need(*move_, "a trace along an SVG file", "width");
    const Drawing drawing{.on = read_piece_place().first};
    return at_place(width, [&] {
      return poses_along(drawing, in_one_stroke(fitted(load_svg_strokes(path),
                                                       as_quantity(width, dimension::length))));
    });
  }

  Step read_turn_joints() {
    if (move_->kind != Node::Kind::map || move_->entries.empty())
      throw move_->error("expected joints with their turns", "write them like {elbow: 20 deg}");
    Keys known;
    for (int k = 0; k < own_.arm.dof(); ++k) known.push_back(own_.arm.moving_joint(k).name);
    expect_keys(*move_, "joint turns", known);
    TurnJoints turn;
    Keys names;
    for (const Node::Entry& entry : move_->entries) {
      const Joint& joint = own_.arm.moving_joint(own_.arm.find_moving_joint(entry.key));
      turn.by.emplace_back(entry.key, as_quantity(entry.value, value_dimension(joint.kind)));
      names.push_back(entry.key);
    }
    return made(fmt::format("turn {}", fmt::join(names, ", ")), std::move(turn));
  }

  // {piece: cup_1, ...}, or the name alone.
  std::string piece_of(const Keys& more) const {
    if (move_->kind == Node::Kind::scalar) return as_text(*move_, "a piece's name");
    expect_keys(*move_, fmt::format("a step of kind {}", kind_), with_keys({"piece"}, more));
    return as_text(need(*move_, fmt::format("a step of kind {}", kind_), "piece"),
                   "a piece's name");
  }
  void read_grasps_and_time(std::vector<std::string>* grasps, double& takes) const {
    if (move_->kind != Node::Kind::map) return;
    if (const Node* list = move_->find("grasps"); list && grasps != nullptr)
      *grasps = texts_of(*list, "a grasp's name");
    read_positive("takes", dimension::time, takes);
  }
  void read_positive(const char* key, Dimension dimension, double& value) const {
    if (move_->kind != Node::Kind::map) return;
    const Node* found = move_->find(key);
    if (found == nullptr) return;
    value = as_quantity(*found, dimension);
    if (!(value > 0.0)) throw found->error(fmt::format("'{}' must be above zero", key));
  }

  Step read_grip() const {
    Grip grip{piece_of({"grasps", "takes"}), {}, Grip{}.takes};
    read_grasps_and_time(&grip.grasps, grip.takes);
    return made("grip " + grip.piece, grip);
  }
  Step read_release() const {
    Release release{piece_of({"takes"}), Release{}.takes};
    read_grasps_and_time(nullptr, release.takes);
    return made("release " + release.piece, release);
  }
  Step read_wait() const {
    const Wait wait{as_quantity(*move_, dimension::time)};
    return made("wait", wait);
  }

  std::vector<Step> read_take() const {
    Taking taking{.piece = piece_of({"grasps", "takes", "from", "raise"})};
    read_grasps_and_time(&taking.grasps, taking.takes);
    read_positive("from", dimension::length, taking.from);
    read_positive("raise", dimension::length, taking.raise);
    return steps_of(taking, step_);
  }
  std::vector<Step> read_put() const {
    Putting putting{
        .piece = piece_of(with_rotation_keys({"at", "in", "turn", "takes", "lower", "back"}))};
    std::tie(putting.at, putting.turn) = read_piece_place();
    read_grasps_and_time(nullptr, putting.takes);
    read_positive("lower", dimension::length, putting.lower);
    read_positive("back", dimension::length, putting.back);
    return steps_of(putting, step_);
  }

  // A text in the stroke font, or the strokes of an SVG file, on a plane.
  std::vector<Step> read_draw() {
    expect_keys(*move_, "a drawing",
                with_rotation_keys({"text", "height", "svg", "width", "at", "in", "lift", "lead"}));
    const Node* text = move_->find("text");
    const Node* svg = move_->find("svg");
    if ((text == nullptr) == (svg == nullptr))
      throw move_->error("a drawing is either a text or an SVG file",
                         "write draw: {text: KILN, height: 30 mm, ...} or draw: {svg: mark.svg, "
                         "width: 40 mm, ...}");
    Drawing drawing;
    if (const Node* lift = move_->find("lift")) {
      drawing.lift = as_quantity(*lift, dimension::length);
      if (drawing.lift < 0.0) throw lift->error("a lift is zero or more");
    }
    double lead = 0.0;
    if (const Node* node = move_->find("lead")) {
      lead = as_quantity(*node, dimension::length);
      if (!(lead > 0.0)) throw node->error("a lead is longer than zero");
      if (text == nullptr || drawing.lift > 0.0)
        throw node->error("lead: is the line before and after a text in one stroke",
                          "it goes with text: and lift: 0");
    }
    if (text != nullptr) {
      drawing.name = as_text(*text, "a text");
      const Node& height = need(*move_, "a text that is drawn", "height");
      at_place(*text, [&] {
        const double size = as_quantity(height, dimension::length);
        if (drawing.lift == 0.0)
          drawing.strokes = {text_in_one_stroke(drawing.name, size, lead)};
        else
          drawing.strokes = text_strokes(drawing.name, size);
        return 0;
      });
    } else {
      const auto path = find_file(as_text(*svg, "a file name"), context_.file, svg->place);
      drawing.name = path.filename().string();
      const Node& width = need(*move_, "an SVG file that is drawn", "width");
      at_place(width, [&] {
        drawing.strokes = fitted(load_svg_strokes(path), as_quantity(width, dimension::length));
        return 0;
      });
    }
    drawing.on = read_piece_place().first;
    if (step_.of.empty()) step_.of = drawing.name;
    std::vector<Step> steps = steps_of(drawing, static_cast<int>(context_.drawings.size()), step_);
    context_.drawings.push_back(std::move(drawing));
    return steps;
  }

  const Node& node_;
  const StepContext& context_;
  const ArmContext& own_;
  const Node* move_ = nullptr;
  std::string kind_;
  Step step_;
};

}  // namespace

double read_clearance(const Node& node) {
  const double clearance = as_quantity(node, dimension::length);
  if (clearance < 0.0) throw node.error("a clearance must be zero or more");
  return clearance;
}

namespace {

void read_list(const Node& list, std::string_view what, const StepContext& context,
               const StepGroup& group, std::vector<Step>& out) {
  for (const Node& item : as_list(list, what)) read_steps(item, context, group, out);
}

// {when: wet, yes: [...], no: [...]}
void read_when(const Node& node, const StepContext& context, const StepGroup& group,
               std::vector<Step>& out) {
  expect_keys(node, "steps that hang on a signal", {"when", "yes", "no"});
  const Node& when = *node.find("when");
  const std::string signal = as_text(when, "a signal's name");
  for (const Condition& one : group.when)
    if (one.on == signal && !one.chosen)
      throw when.error(fmt::format("what '{}' says is known here already", signal),
                       "leave out this when: and keep the steps that fit");
  const std::size_t before = out.size();
  for (const bool is : {true, false}) {
    const Node* list = node.find(is ? "yes" : "no");
    if (list == nullptr) continue;
    StepGroup own = group;
    own.when.push_back({signal, is});
    read_list(*list, "steps", context, own, out);
  }
  if (out.size() == before)
    throw node.error("nothing hangs on this signal", "add yes: or no: with steps");
}

// Steps with others in their stead.
void read_with_instead(const Node& node, const Node& on_no, const StepContext& context,
                       const StepGroup& group, std::vector<Step>& out) {
  Node itself = node;
  std::erase_if(itself.entries, [](const auto& entry) { return entry.key == "on_no"; });
  const std::string name = fmt::format("step {}.{}", out.size() + 1, group.when.size());
  for (const bool is : {true, false}) {
    StepGroup own = group;
    own.when.push_back({name, is, true});
    if (is)
      read_steps(itself, context, own, out);
    else
      read_list(on_no, "steps to do instead", context, own, out);
  }
}

// {of: NAME, arm: NAME, after: NAME, steps: [...]}
void read_group(const Node& node, const StepContext& context, const StepGroup& group,
                std::vector<Step>& out) {
  expect_keys(node, "a group of steps", {"of", "arm", "after", "steps"});
  StepGroup own = group;
  const Node* of = node.find("of");
  const Node* arm = node.find("arm");
  if (of == nullptr && arm == nullptr)
    throw node.error("a group says what its steps are a part of, or whose they are",
                     "add of: NAME");
  if (of != nullptr) own.of = (group.of.empty() ? "" : group.of + ", ") + as_text(*of, "a name");
  if (arm != nullptr) own.arm = arm_context(context, as_text(*arm, "an arm name"), *arm).arm.name();
  const std::size_t before = out.size();
  read_list(*node.find("steps"), "steps", context, own, out);
  if (out.size() == before) throw node.find("steps")->error("a group needs at least one step");
  if (const Node* after = node.find("after"))
    for (std::string& name : texts_of(*after, "the name of a step of another arm"))
      out[before].after.push_back(std::move(name));
}

}  // namespace

void read_steps(const Node& node, const StepContext& context, const StepGroup& group,
                std::vector<Step>& out) {
  const auto has = [&](const char* key) {
    return node.kind == Node::Kind::map && node.find(key) != nullptr;
  };
  if (has("on_no"))
    read_with_instead(node, *node.find("on_no"), context, group, out);
  else if (has("when"))
    read_when(node, context, group, out);
  else if (has("steps"))
    read_group(node, context, group, out);
  else
    for (Step& step : StepReader(node, context, group).read()) out.push_back(std::move(step));
}

}  // namespace er
