#include "elbowroom/routine/situation.hpp"

#include <algorithm>

#include "elbowroom/base/twist.hpp"
#include "elbowroom/collision/distance.hpp"

namespace er {
namespace {

constexpr std::size_t kMostAsked = 96;
constexpr double kTouching = 1e-3;   // m
constexpr double kSamePlace = 1e-6;  // m and rad

bool is_same(const Pose& a, const Pose& b) {
  const Twist apart = twist_between(a, b, 1.0);
  return apart.velocity.norm() < kSamePlace && apart.turning.norm() < kSamePlace;
}

bool touches(const std::vector<Part>& parts, const Pose& at, const Body& other) {
  for (const Part& own : parts) {
    if (!own.collides) continue;
    const AlignedBox box = aligned_box(own.shape, at * own.at);
    for (const Part& part : other.parts) {
      if (!part.collides) continue;
      const Pose there = other.at * part.at;
      if (box.gap_to(aligned_box(part.shape, there)) > kTouching) continue;
      if (distance(own.shape, at * own.at, part.shape, there).distance <= kTouching) return true;
    }
  }
  return false;
}

}  // namespace

Situations::Situations(const CellQuery& query) : first_(query) {
  all_.push_back({query.cell(), holds_of(query.arm()), {}});
  asked_.push_back({0, {}, std::make_unique<CellQuery>(query)});
}

int Situations::known(Situation situation) {
  const auto same = [&](const Situation& other) {
    if (other.holds.size() != situation.holds.size() ||
        other.moved.size() != situation.moved.size())
      return false;
    for (std::size_t i = 0; i < other.holds.size(); ++i)
      if (other.holds[i].piece != situation.holds[i].piece ||
          other.holds[i].tool != situation.holds[i].tool ||
          !is_same(other.holds[i].tip, situation.holds[i].tip))
        return false;
    return std::equal(other.moved.begin(), other.moved.end(), situation.moved.begin(),
                      [](const auto& a, const auto& b) {
                        return a.first == b.first && is_same(a.second, b.second);
                      });
  };
  const auto found = std::find_if(all_.begin(), all_.end(), same);
  if (found != all_.end()) return static_cast<int>(found - all_.begin());
  all_.push_back(std::move(situation));
  return static_cast<int>(all_.size()) - 1;
}

int Situations::after_grip(int before, const Hold& hold) {
  Situation next = at(before);
  next.cell = next.cell.with_held(hold.piece, first_.arm().name(), hold.tool, hold.tip);
  next.holds.push_back(hold);
  next.moved.erase(hold.piece);
  return known(std::move(next));
}

int Situations::after_release(int before, const std::string& piece, const Pose& pose) {
  Situation next = at(before);
  next.cell = next.cell.with_released(piece, pose);
  std::erase_if(next.holds, [&](const Hold& hold) { return hold.piece == piece; });
  next.moved.insert_or_assign(piece, pose);
  return known(std::move(next));
}

const CellQuery& Situations::query(int situation, const std::vector<MeantContact>& meant) {
  for (const Asked& one : asked_)
    if (one.situation == situation && one.meant == meant) return *one.query;
  // Each holds a map of space. Whoever has asked for one needs it no longer when many others were.
  if (asked_.size() == kMostAsked) asked_.erase(asked_.begin() + 1);
  const Cell& cell = at(situation).cell;
  asked_.push_back({situation, meant,
                    std::make_unique<CellQuery>(
                        first_.with_cell(meant.empty() ? cell : cell.with_contacts(meant)))});
  return *asked_.back().query;
}

void Situations::forget_questions() { asked_.resize(1); }

const Hold* Situations::hold_of(int situation, const std::string& piece) const {
  for (const Hold& hold : at(situation).holds)
    if (hold.piece == piece) return &hold;
  return nullptr;
}

const Body* Situations::piece(int situation, const std::string& name) const {
  for (const Body& body : at(situation).cell.pieces())
    if (body.name == name) return &body;
  return nullptr;
}

std::vector<MeantContact> Situations::as_held(int situation,
                                              std::vector<MeantContact> pairs) const {
  for (MeantContact& pair : pairs)
    for (std::string* name : {&pair.first, &pair.second})
      for (const HeldPiece& one : at(situation).cell.description().held)
        if (one.piece.name == *name) *name = one.arm + "." + *name;
  return pairs;
}

Pose Situations::held_at(const Hold& hold, const Posture& posture) const {
  return place_of(hold, first_.arm(), posture);
}

std::vector<std::string> touched(const Cell& cell, const std::vector<Part>& parts,
                                 const std::string& piece, const Pose& at) {
  std::vector<std::string> out;
  for (const auto* bodies : {&cell.fixtures(), &cell.pieces()})
    for (const Body& body : *bodies)
      if (body.name != piece && touches(parts, at, body)) out.push_back(body.name);
  return out;
}

std::vector<std::string> gripping_links(const Arm& arm, const std::string& tool) {
  std::vector<bool> grips(arm.links().size(), false);
  grips[static_cast<std::size_t>(arm.tool(tool).link_index)] = true;
  std::vector<std::string> out;
  for (std::size_t i = 0; i < grips.size(); ++i) {
    const Link& link = arm.links()[i];
    if (link.parent_index >= 0 && !link.held && grips[static_cast<std::size_t>(link.parent_index)])
      grips[i] = true;
    if (grips[i]) out.push_back(link_name(arm, static_cast<int>(i)));
  }
  return out;
}

}  // namespace er
