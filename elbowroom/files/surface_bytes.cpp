#include "elbowroom/files/surface_bytes.hpp"

#include <cstdint>
#include <cstring>

#include "elbowroom/base/input_error.hpp"

namespace er {
namespace {

template <class T>
void put(std::string& out, const T& value) {
  out.append(reinterpret_cast<const char*>(&value), sizeof(T));
}

class Bytes {
 public:
  explicit Bytes(std::string_view all) : left_(all) {}
  template <class T>
  T take() {
    T out;
    std::memcpy(&out, take(sizeof(T)).data(), sizeof(T));
    return out;
  }
  std::string_view take(std::size_t count) {
    if (count > left_.size()) throw InputError("what was read of a mesh came through cut short");
    const std::string_view out = left_.substr(0, count);
    left_.remove_prefix(count);
    return out;
  }
  // As many as there are bytes for.
  std::size_t count(std::size_t size) {
    const auto out = take<std::uint64_t>();
    if (out > left_.size() / size)
      throw InputError("what was read of a mesh came through cut short");
    return static_cast<std::size_t>(out);
  }

 private:
  std::string_view left_;
};

}  // namespace

std::string bytes_of(const std::vector<Surface>& surfaces) {
  std::string out;
  put(out, std::uint64_t{surfaces.size()});
  for (const Surface& one : surfaces) {
    put(out, std::uint64_t{one.name.size()});
    out += one.name;
    put(out, std::uint64_t{one.colour.has_value()});
    if (one.colour) put(out, *one.colour);
    put(out, one.off);
    put(out, std::uint64_t{one.corners.size()});
    for (const Vector3& corner : one.corners)
      for (const double value : corner) put(out, value);
    put(out, std::uint64_t{one.faces.size()});
    for (const auto& face : one.faces) put(out, face);
  }
  return out;
}

std::vector<Surface> surfaces_of_bytes(std::string_view bytes) {
  Bytes in(bytes);
  std::vector<Surface> out(in.count(5 * sizeof(std::uint64_t)));
  for (Surface& one : out) {
    one.name = std::string(in.take(in.count(1)));
    if (in.take<std::uint64_t>() != 0) one.colour = in.take<Colour>();
    one.off = in.take<double>();
    one.corners.resize(in.count(3 * sizeof(double)));
    for (Vector3& corner : one.corners)
      for (double& value : corner) value = in.take<double>();
    one.faces.resize(in.count(sizeof(std::array<int, 3>)));
    for (auto& face : one.faces) face = in.take<std::array<int, 3>>();
  }
  return out;
}

}  // namespace er
