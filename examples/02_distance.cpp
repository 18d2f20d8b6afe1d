// How far apart are two solid shapes, and where?
#include <fmt/format.h>
#include <elbowroom/base/units.hpp>
#include <elbowroom/collision/distance.hpp>

int main() {
  using namespace er::literals;
  const er::Shape cup = er::Cylinder{.radius = 32.0_mm, .length = 80.0_mm};
  const er::Shape finger = er::Box{.size = {12.0_mm, 24.0_mm, 90.0_mm}};

  for (const double x : {60.0_mm, 40.0_mm, 35.0_mm}) {
    const er::Separation s =
        er::distance(cup, er::Pose::at({0, 0, 40.0_mm}), finger, er::Pose::at({x, 0, 70.0_mm}));
    fmt::print("finger at {:4.0f} mm: {:5.1f} mm {}\n", er::to_mm(x),
               er::to_mm(std::abs(s.distance)),
               s.distance < 0 ? "deep in the cup" : "from the cup");
  }
}
