#include "elbowroom/reach/sliding_arm.hpp"

#include <Eigen/Geometry>
#include <cmath>

#include "elbowroom/reach/axis_geometry.hpp"
#include "elbowroom/reach/subproblems.hpp"

namespace er {
namespace {

double cosine_between(const Screw& a, const Screw& b) { return std::abs(a.axis.dot(b.axis)); }

// What of two directions together comes nearest to a vector; the first alone where both are one.
std::array<double, 2> shares_of(const Vector3& a, const Vector3& b, const Vector3& v) {
  const Vector3 normal = a.cross(b);
  const double size = normal.squaredNorm();
  if (size < kAxisTolerance * kAxisTolerance) return {a.dot(v), 0.0};
  return {normal.dot(v.cross(b)) / size, normal.dot(a.cross(v)) / size};
}

// Three joints in the order in which they are solved.
struct Question {
  const ThreeScrews& joint;
  const Vector3& point;
  const Vector3& goal;
  WayCandidates& out;

  [[nodiscard]] Vector3 after_third(double value) const {
    return motion_of(joint[2], value) * point;
  }
  void add(double first, double second, double third, bool is_extra = false) const {
    out.add({{first, second, third}, free_turn(joint, point, after_third(third), goal)}, is_extra);
  }

  // The slides keep the height over their plane.
  void slide_slide_turn() const {
    const Screw& turn = joint[2];
    const Vector3 up = joint[0].axis.cross(joint[1].axis);
    const TwoAngles thirds =
        turns_to_height(turn.axis, point - turn.point, up, up.dot(goal - turn.point));
    for (int i = 0; i < thirds.count; ++i) {
      const double third = thirds.angle[i];
      const auto slides = shares_of(joint[0].axis, joint[1].axis, goal - after_third(third));
      add(slides[0], slides[1], third);
    }
  }

  // Seen from a point of the turn's axis: goal - q1 a - R point - q3 R c = 0, so that a, R c and
  // goal - R point lie in a plane: an equation of degree 1 in the cosine and sine of the turn.
  void slide_turn_slide() const {
    const Screw& turn = joint[1];
    const Vector3& a = joint[0].axis;
    const Vector3& c = joint[2].axis;
    const Vector3 from = point - turn.point;
    const Vector3 to = goal - turn.point;
    const Vector3 of_goal = to.cross(a);
    const Vector3 of_point = c.cross(from);
    const auto along = [&](const Vector3& v) { return turn.axis.dot(v); };
    const auto by_cosine = [&](const Vector3& u, const Vector3& v) {
      return u.dot(v) - along(u) * along(v);
    };
    const auto by_sine = [&](const Vector3& u, const Vector3& v) { return along(v.cross(u)); };
    TwoAngles turns = solve_cosine_sine(by_cosine(of_goal, c) - by_cosine(a, of_point),
                                        by_sine(of_goal, c) - by_sine(a, of_point),
                                        along(a) * along(of_point) - along(of_goal) * along(c));
    // What of two slides lies across, after a turn.
    const auto between = [&](double angle) {
      return a.cross(rotation_about(turn.axis, angle) * c).norm();
    };
    if (turns.any && between(2.0) > between(0.0)) turns.angle[0] = 2.0;  // rad; not both one line
    for (int i = 0; i < turns.count; ++i) {
      const Matrix3 turned = rotation_about(turn.axis, turns.angle[i]);
      const auto slides = shares_of(a, turned * c, to - turned * from);
      const bool both_are_one = between(turns.angle[i]) < kAxisTolerance;
      const int free = both_are_one ? 0
                       : turns.any  ? 1
                                    : free_turn(joint, point, after_third(slides[1]), goal);
      out.add({{slides[0], turns.angle[i], slides[1]}, free}, false);
    }
  }

  // The second turn keeps height and distance, as its axis sees them.
  void slide_turn_turn() const {
    const double cosine = cosine_between(joint[0], joint[1]);
    if (cosine < kAllButSpecial) slide_turn_turn_perpendicular(cosine > kAxisTolerance);
    if (cosine > kAxisTolerance) slide_turn_turn_askew();
  }
  [[nodiscard]] Vector3 from_second(double third) const {
    return after_third(third) - joint[1].point;
  }
  void add_slide(double by, double third, bool is_extra = false) const {
    const Vector3 wanted = goal - joint[1].point - by * joint[0].axis;
    add(by, turn_onto(joint[1].axis, from_second(third), wanted), third, is_extra);
  }

  void slide_turn_turn_askew() const {
    const Vector3& along = joint[1].axis;
    const Vector3& slide = joint[0].axis;
    const Vector3 to = goal - joint[1].point;
    const double rise = along.dot(slide);
    const auto by = [&](double third) { return along.dot(to - from_second(third)) / rise; };
    if (distance_from(joint[2], point) < kHalfOfDigits)  // any turn is the same
      return add_slide(by(0.0), 0.0);
    const auto too_far = [&](double third) {
      const Vector3 u = from_second(third);
      const Vector3 left = rise * to - along.dot(to - u) * slide;
      return left.squaredNorm() - rise * rise * u.squaredNorm();
    };
    const TrigRoots thirds = angles_where(too_far, rise * rise * to.squaredNorm());
    out.sure = thirds.all_isolated;
    for (const double third : thirds) add_slide(by(third), third);
  }

  // The slide keeps the height, too, and cuts the circle that the turn makes.
  void slide_turn_turn_perpendicular(bool is_extra) const {
    const Vector3& along = joint[1].axis;
    const Screw& third = joint[2];
    const TwoAngles thirds =
        turns_to_height(third.axis, point - third.point, along, along.dot(goal - third.point));
    const Vector3 slide = across(along, joint[0].axis).normalized();
    const Vector3 aside = across(along, goal - joint[1].point);
    const double nearest = aside.dot(slide);
    const double off = (aside - nearest * slide).norm();
    for (int i = 0; i < thirds.count; ++i) {
      const double radius = across(along, from_second(thirds.angle[i])).norm();
      if (off > radius * (1.0 + kHalfOfDigits) + kHalfOfDigits) continue;
      const double half = std::sqrt(std::max(0.0, (radius - off) * (radius + off)));
      add_slide(nearest + half, thirds.angle[i], is_extra);
      if (half > 0.0) add_slide(nearest - half, thirds.angle[i], is_extra);
    }
  }

  // What the third joint makes of the point, and what the first has to make the goal of, differ
  // along the slide alone.
  void turn_slide_turn() const {
    const double cosine = cosine_between(joint[1], joint[2]);
    if (cosine < kAllButSpecial) turn_slide_turn_perpendicular(cosine > kAxisTolerance);
    if (cosine > kAxisTolerance) turn_slide_turn_askew();
  }
  [[nodiscard]] Vector3 wanted_after_slide(double first) const {
    return motion_of(joint[0], -first) * goal;
  }
  void add_turns(double first, double third, bool is_extra = false) const {
    add(first, joint[1].axis.dot(wanted_after_slide(first) - after_third(third)), third, is_extra);
  }

  // Seen along the slide, the third joint's circle is an ellipse, and any place in that plane asks
  // for some cosine and sine of its turn, whose squares have to make 1.
  void turn_slide_turn_askew() const {
    const Vector3& slide = joint[1].axis;
    const Screw& third = joint[2];
    const Vector3 from = point - third.point;
    const Vector3 x = across(third.axis, from);
    const Vector3 y = third.axis.cross(from);
    const Vector3 centre = third.point + third.axis.dot(from) * third.axis;
    const double area = slide.dot(x.cross(y));
    // Times the area.
    struct CosineSine {
      double cosine;
      double sine;
    };
    const auto asked = [&](double first) -> CosineSine {
      const Vector3 left = wanted_after_slide(first) - centre;
      return {slide.dot(left.cross(y)), slide.dot(x.cross(left))};
    };
    const auto add_first = [&](double first) {
      const CosineSine turn = asked(first);
      const double sense = area < 0.0 ? -1.0 : 1.0;
      add_turns(first, std::atan2(sense * turn.sine, sense * turn.cosine));
    };
    if (distance_from(joint[0], goal) < kHalfOfDigits) return add_first(0.0);  // any is the same
    const auto too_far = [&](double first) {
      const CosineSine turn = asked(first);
      return turn.cosine * turn.cosine + turn.sine * turn.sine - area * area;
    };
    const TrigRoots firsts = angles_where(too_far, area * area);
    out.sure = firsts.all_isolated;
    for (const double first : firsts) add_first(first);
  }

  // The slide and the third turn keep the height along the third axis.
  void turn_slide_turn_perpendicular(bool is_extra) const {
    const Screw& first = joint[0];
    const Screw& third = joint[2];
    const TwoAngles firsts = turns_to_height(first.axis, goal - first.point, third.axis,
                                             third.axis.dot(point - first.point));
    const Vector3 aside = third.axis.cross(joint[1].axis);
    for (int i = 0; i < firsts.count; ++i) {
      const double one = -firsts.angle[i];
      const TwoAngles thirds = turns_to_height(third.axis, point - third.point, aside,
                                               aside.dot(wanted_after_slide(one) - third.point));
      for (int k = 0; k < thirds.count; ++k) add_turns(one, thirds.angle[k], is_extra);
    }
  }

  void solve() const {
    const bool slides[3] = {!joint[0].turns, !joint[1].turns, !joint[2].turns};
    if (slides[0] && slides[1]) return slide_slide_turn();
    if (slides[0] && slides[2]) return slide_turn_slide();
    if (slides[0]) return slide_turn_turn();
    return turn_slide_turn();
  }
};

ThreeScrews from_last(const ThreeScrews& joints) { return {joints[2], joints[1], joints[0]}; }

}  // namespace

SlidingArm::SlidingArm(const ThreeScrews& joints, const Vector3& point)
    : joints_(joints), point_(point), from_last_(joints[0].turns && !joints[2].turns) {}

std::string SlidingArm::path() const {
  std::string which;
  int count = 0;
  for (std::size_t k = 0; k < 3; ++k)
    if (!joints_[k].turns) which += (count++ > 0 ? " and " : " ") + std::to_string(k + 1);
  return (count > 1 ? "joints" : "joint") + which + (count > 1 ? " slide" : " slides");
}

void SlidingArm::solve(const Vector3& goal, ThreeJoints& out) const {
  WayCandidates found;
  if (from_last_)
    Question{from_last(joints_), goal, point_, found}.solve();
  else
    Question{joints_, point_, goal, found}.solve();
  if (from_last_)
    for (int i = 0; i < found.count; ++i) {
      ThreeJoints::Way& way = found.all[static_cast<std::size_t>(i)].way;
      way.value = {-way.value[2], -way.value[1], -way.value[0]};
      if (way.free >= 0) way.free = 2 - way.free;
    }
  keep_ways(joints_, point_, goal, found, out);
}

}  // namespace er
