#include "elbowroom/base/vector_text.hpp"

#include <fmt/format.h>

#include "elbowroom/base/units.hpp"

namespace er {
namespace {

std::string text_three(const Vector3& values, double scale, double digits, const char* unit) {
  const Vector3 v = (values * (scale * digits)).array().round() / digits + 0.0;
  return fmt::format("[{:g}, {:g}, {:g}]{}", v.x(), v.y(), v.z(), unit);
}

}  // namespace

std::string text_mm(const Vector3& metres) { return text_three(metres, to_mm(1.0), 10.0, " mm"); }
std::string text_deg(const Vector3& radians) {
  return text_three(radians, to_deg(1.0), 10.0, " deg");
}
std::string text_unit(const Vector3& direction) { return text_three(direction, 1.0, 1e3, ""); }

}  // namespace er
