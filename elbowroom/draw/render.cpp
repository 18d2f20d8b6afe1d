// One ray per pixel finds what is seen; shadow and sky rays from there give the lighting, a
// different share of them in each pixel of a 4 by 4 tile; the lighting is smoothed along surfaces;
// then several rays per pixel give smooth edges, each taking the lighting of the neighbouring pixel
// that is most like what it hits.
#include "elbowroom/draw/render.hpp"

#include <embree3/rtcore.h>
#include <tbb/parallel_for.h>

#include <Eigen/Geometry>
#include <algorithm>
#include <array>
#include <cmath>
#include <numbers>

#include "elbowroom/draw/camera.hpp"
#include "elbowroom/draw/light_filter.hpp"

namespace er {
namespace {

using Vector3f = Eigen::Vector3f;

constexpr float kLampSize = 0.09F;  // radius of the lamp seen at distance 1: softness of shadows
constexpr float kNoHit = std::numeric_limits<float>::infinity();
const Vector3f kHorizon(0.82F, 0.84F, 0.86F);  // linear colours
const Vector3f kZenith(0.93F, 0.95F, 0.97F);
const Vector3f kGround(0.66F, 0.65F, 0.63F);

float to_linear(double channel) { return static_cast<float>(std::pow(channel, 2.2)); }

std::uint8_t to_byte(float linear) {
  // Bright parts are rolled off gently instead of being cut.
  const float mapped = linear < 0.8F ? linear : 1.0F - 0.2F * std::exp(-(linear - 0.8F) / 0.2F);
  return static_cast<std::uint8_t>(
      std::lround(255.0F * std::clamp(std::pow(std::max(mapped, 0.0F), 1.0F / 2.2F), 0.0F, 1.0F)));
}

constexpr int kTheGround = -1;
constexpr int kNothing = -2;

// What a ray meets: a mesh, the ground plane, or nothing (normal zero).
struct Hit {
  Vector3f point = Vector3f::Zero();
  Vector3f normal = Vector3f::Zero();
  int mesh = kNothing;
  [[nodiscard]] bool ground() const { return mesh == kTheGround; }
};

class World {
 public:
  explicit World(const Scene& scene)
      : scene_(scene), device_(rtcNewDevice(nullptr)), rtc_(rtcNewScene(device_)) {
    for (const SceneMesh& mesh : scene.meshes()) {
      RTCGeometry geometry = rtcNewGeometry(device_, RTC_GEOMETRY_TYPE_TRIANGLE);
      auto* vertices = static_cast<float*>(
          rtcSetNewGeometryBuffer(geometry, RTC_BUFFER_TYPE_VERTEX, 0, RTC_FORMAT_FLOAT3,
                                  3 * sizeof(float), mesh.vertices.size()));
      for (std::size_t i = 0; i < mesh.vertices.size(); ++i)
        for (std::size_t k = 0; k < 3; ++k)
          vertices[3 * i + k] = mesh.vertices[i][static_cast<Eigen::Index>(k)];
      auto* indices = static_cast<std::uint32_t*>(
          rtcSetNewGeometryBuffer(geometry, RTC_BUFFER_TYPE_INDEX, 0, RTC_FORMAT_UINT3,
                                  3 * sizeof(std::uint32_t), mesh.triangles.size()));
      for (std::size_t i = 0; i < mesh.triangles.size(); ++i)
        for (std::size_t k = 0; k < 3; ++k) indices[3 * i + k] = mesh.triangles[i][k];
      rtcCommitGeometry(geometry);
      rtcAttachGeometry(rtc_, geometry);  // ids count up in this order
      rtcReleaseGeometry(geometry);
      colours_.emplace_back(to_linear(mesh.colour.red), to_linear(mesh.colour.green),
                            to_linear(mesh.colour.blue));
    }
    rtcCommitScene(rtc_);
    middle_ = (0.5 * (scene.low() + scene.high())).cast<float>();
    size_ = static_cast<float>((scene.high() - scene.low()).norm()) * 0.5F;
    // The floor is z = 0, or lower where something reaches below it.
    ground_ = std::min(0.0F, static_cast<float>(scene.low().z()));
  }
  World(const World&) = delete;
  World& operator=(const World&) = delete;
  ~World() {
    rtcReleaseScene(rtc_);
    rtcReleaseDevice(device_);
  }

  [[nodiscard]] Hit trace(const Vector3f& from, const Vector3f& way) const {
    RTCRayHit query{};
    set_ray(query.ray, from, way);
    query.hit.geomID = RTC_INVALID_GEOMETRY_ID;
    RTCIntersectContext context;
    rtcInitIntersectContext(&context);
    context.flags = RTC_INTERSECT_CONTEXT_FLAG_COHERENT;
    rtcIntersect1(rtc_, &context, &query);
    const float height = from.z() - ground_;
    const float ground = way.z() < -1e-6F && height > 0.0F ? -height / way.z() : kNoHit;
    Hit hit;
    if (query.hit.geomID == RTC_INVALID_GEOMETRY_ID || query.ray.tfar > ground) {
      if (ground == kNoHit) return hit;
      hit.point = from + ground * way;
      hit.normal = Vector3f::UnitZ();
      hit.mesh = kTheGround;
      return hit;
    }
    const SceneMesh& mesh = scene_.meshes()[query.hit.geomID];
    const auto& triangle = mesh.triangles[query.hit.primID];
    hit.point = from + query.ray.tfar * way;
    hit.normal = ((1.0F - query.hit.u - query.hit.v) * mesh.normals[triangle[0]] +
                  query.hit.u * mesh.normals[triangle[1]] + query.hit.v * mesh.normals[triangle[2]])
                     .normalized();
    if (hit.normal.dot(way) > 0.0F) hit.normal = -hit.normal;
    hit.mesh = static_cast<int>(query.hit.geomID);
    return hit;
  }

  [[nodiscard]] bool blocked(const Vector3f& from, const Vector3f& way, float reach) const {
    RTCRay ray{};
    set_ray(ray, from, way);
    ray.tfar = reach;
    RTCIntersectContext context;
    rtcInitIntersectContext(&context);
    rtcOccluded1(rtc_, &context, &ray);
    return ray.tfar < 0.0F;
  }

  [[nodiscard]] const Vector3f& colour_of(int mesh) const {
    return mesh == kTheGround ? kGround : colours_[static_cast<std::size_t>(mesh)];
  }
  // 0 near the scene, 1 where the ground has gone over into the background.
  [[nodiscard]] float fade(const Vector3f& point) const {
    const float distance = (point - middle_).head<2>().norm() / size_;
    const float t = std::clamp((distance - 0.9F) / 1.6F, 0.0F, 1.0F);
    return t * t * (3.0F - 2.0F * t);
  }
  [[nodiscard]] float size() const { return size_; }

 private:
  static void set_ray(RTCRay& ray, const Vector3f& from, const Vector3f& way) {
    ray.org_x = from.x(), ray.org_y = from.y(), ray.org_z = from.z();
    ray.dir_x = way.x(), ray.dir_y = way.y(), ray.dir_z = way.z();
    ray.tnear = 0.0F;
    ray.tfar = kNoHit;
    ray.mask = 0xFFFFFFFFU;
  }

  const Scene& scene_;
  RTCDevice device_;
  RTCScene rtc_;
  std::vector<Vector3f> colours_;
  Vector3f middle_;
  float ground_ = 0.0F;
  float size_ = 1.0F;
};

struct Frame3f {
  explicit Frame3f(const Vector3f& z_axis) : z(z_axis) {
    const Vector3f helper = std::abs(z.x()) < 0.6F ? Vector3f::UnitX() : Vector3f::UnitY();
    x = z.cross(helper).normalized();
    y = z.cross(x);
  }
  Vector3f x, y, z;
};

float radical_inverse(unsigned i) {
  float value = 0.0F;
  for (float half = 0.5F; i != 0; i >>= 1U, half *= 0.5F)
    if ((i & 1U) != 0U) value += half;
  return value;
}

// Sample i of n in the unit square, turned by the pixel's place in a 4 by 4 tile so that the tile
// as a whole is sampled 16 times as densely.
std::array<float, 2> sample_point(int i, int n, int x, int y) {
  static constexpr std::array<int, 16> kTile{0, 8, 2, 10, 12, 4, 14, 6, 3, 11, 1, 9, 15, 7, 13, 5};
  const auto place = static_cast<std::size_t>((y % 4) * 4 + x % 4);
  const float shift_u = (static_cast<float>(kTile[place]) + 0.5F) / 16.0F;
  const float shift_v = radical_inverse(static_cast<unsigned>(kTile[place]));
  const float u = (static_cast<float>(i) + shift_u) / static_cast<float>(n);
  const float v = radical_inverse(static_cast<unsigned>(i)) + shift_v;
  return {u, v - std::floor(v)};
}

class Renderer {
 public:
  Renderer(const Scene& scene, const View& view, const RenderOptions& options)
      : world_(scene),
        camera_(options.frame != nullptr ? *options.frame : scene, view, options.width,
                options.height),
        options_(options),
        pixel_scale_(2.0F * static_cast<float>(std::tan(0.5 * view.field)) /
                     static_cast<float>(options.height)) {
    lamp_ =
        (-0.62F * camera_.right - 0.28F * camera_.forward + 0.9F * Vector3f::UnitZ()).normalized();
  }

  Image run() {
    std::vector<LitPixel> lit(static_cast<std::size_t>(options_.width * options_.height));
    each_pixel([&](int x, int y, std::size_t at) {
      lit[at] = light(world_.trace(camera_.eye, camera_.ray(static_cast<float>(x) + 0.5F,
                                                            static_cast<float>(y) + 0.5F)),
                      x, y);
    });
    smooth_lighting(lit, options_.width, options_.height, pixel_scale_, camera_.eye);
    Image image{options_.width, options_.height, std::vector<std::uint8_t>(3 * lit.size())};
    each_pixel([&](int x, int y, std::size_t at) {
      const Vector3f colour = pixel_colour(lit, x, y);
      for (std::size_t c = 0; c < 3; ++c)
        image.rgb[3 * at + c] = to_byte(colour[static_cast<Eigen::Index>(c)]);
    });
    return image;
  }

 private:
  template <class Work>
  void each_pixel(Work work) const {
    tbb::parallel_for(0, options_.height, [&](int y) {
      for (int x = 0; x < options_.width; ++x)
        work(x, y, static_cast<std::size_t>(y * options_.width + x));
    });
  }

  [[nodiscard]] LitPixel light(const Hit& hit, int x, int y) const {
    LitPixel out{hit.point, hit.normal, hit.mesh, 0.0F, 0.0F};
    if (hit.normal.isZero() || (hit.ground() && world_.fade(hit.point) >= 1.0F)) return out;
    const Vector3f from = hit.point + 2e-4F * hit.normal;
    const Frame3f lamp(lamp_);
    const Frame3f surface(hit.normal);
    const int n = options_.light_samples;
    for (int i = 0; i < n; ++i) {
      const auto [u, v] = sample_point(i, n, x, y);
      const float radius = std::sqrt(u);
      const float angle = 2.0F * std::numbers::pi_v<float> * v;
      const float a = radius * std::cos(angle);
      const float b = radius * std::sin(angle);
      const Vector3f to_lamp = (lamp_ + kLampSize * (a * lamp.x + b * lamp.y)).normalized();
      if (to_lamp.dot(hit.normal) > 0.0F && !world_.blocked(from, to_lamp, kNoHit)) out.sun += 1.0F;
      // Cosine-weighted: a point of the disc lifted onto the half-sphere.
      const Vector3f to_sky =
          a * surface.x + b * surface.y + std::sqrt(std::max(0.0F, 1.0F - u)) * surface.z;
      const float open = to_sky.z() < 0.0F ? 0.55F : 1.0F;  // the ground gives back some of it
      if (!world_.blocked(from, to_sky, 0.6F * world_.size())) out.sky += open;
    }
    out.sun /= static_cast<float>(n);
    out.sky /= static_cast<float>(n);
    return out;
  }

  [[nodiscard]] static Vector3f background(const Vector3f& way) {
    const float t = std::clamp(way.z() * 2.0F, 0.0F, 1.0F);
    return (1.0F - t) * kHorizon + t * kZenith;
  }

  // The lighting of the pixel, of the nine around (x, y), that is most like the hit.
  [[nodiscard]] LitPixel lighting_near(const std::vector<LitPixel>& lit, const Hit& hit, int x,
                                       int y) const {
    LitPixel here{hit.point, hit.normal, hit.mesh, 0.0F, 0.0F};
    const float scale = pixel_scale_ * (hit.point - camera_.eye).norm();
    float best = 0.0F;
    for (int j = -1; j <= 1; ++j) {
      for (int i = -1; i <= 1; ++i) {
        const int nx = std::clamp(x + i, 0, options_.width - 1);
        const int ny = std::clamp(y + j, 0, options_.height - 1);
        const LitPixel& other = lit[static_cast<std::size_t>(ny * options_.width + nx)];
        const float away = (other.point - hit.point).norm() / scale;
        const float alike = likeness(here, other, scale) / (1.0F + away);
        if (alike <= best) continue;
        best = alike;
        here.sun = other.sun;
        here.sky = other.sky;
      }
    }
    // Nothing alike nearby (a sliver thinner than a pixel): light it anew.
    return best > 0.0F ? here : light(hit, x, y);
  }

  // True when the pixel and the eight around it see one smooth surface: one ray will do.
  [[nodiscard]] bool is_plain(const std::vector<LitPixel>& lit, int x, int y) const {
    const LitPixel& here = lit[static_cast<std::size_t>(y * options_.width + x)];
    for (int j = -1; j <= 1; ++j) {
      for (int i = -1; i <= 1; ++i) {
        const int nx = std::clamp(x + i, 0, options_.width - 1);
        const int ny = std::clamp(y + j, 0, options_.height - 1);
        const LitPixel& other = lit[static_cast<std::size_t>(ny * options_.width + nx)];
        if (other.mesh != here.mesh) return false;
        if (here.mesh != kNothing && other.normal.dot(here.normal) < 0.9F) return false;
      }
    }
    return true;
  }

  [[nodiscard]] Vector3f shade(const LitPixel& seen, const Vector3f& way) const {
    Vector3f behind = background(way);
    const bool ground = seen.mesh == kTheGround;
    const float fade = seen.mesh == kNothing ? 1.0F : ground ? world_.fade(seen.point) : 0.0F;
    if (fade >= 1.0F) return behind;
    const float facing = std::max(0.0F, seen.normal.dot(lamp_));
    const float lamp = 0.85F * facing * seen.sun;
    Vector3f shaded = world_.colour_of(seen.mesh) * (lamp + 0.55F * seen.sky);
    if (!ground) {
      const float mirror = std::max(0.0F, (lamp_ - way).normalized().dot(seen.normal));
      shaded += Vector3f::Constant(0.12F * std::pow(mirror, 40.0F) * seen.sun);
    }
    return (1.0F - fade) * shaded + fade * behind;
  }

  [[nodiscard]] Vector3f pixel_colour(const std::vector<LitPixel>& lit, int x, int y) const {
    if (is_plain(lit, x, y)) {
      const Vector3f way = camera_.ray(static_cast<float>(x) + 0.5F, static_cast<float>(y) + 0.5F);
      return shade(lit[static_cast<std::size_t>(y * options_.width + x)], way);
    }
    Vector3f sum = Vector3f::Zero();
    const int samples = options_.edge_samples;
    for (int i = 0; i < samples; ++i) {
      const float dx = (static_cast<float>(i) + 0.5F) / static_cast<float>(samples);
      const float dy =
          radical_inverse(static_cast<unsigned>(i)) + 0.5F / static_cast<float>(samples);
      const Vector3f way =
          camera_.ray(static_cast<float>(x) + dx, static_cast<float>(y) + std::fmod(dy, 1.0F));
      const Hit hit = world_.trace(camera_.eye, way);
      sum += shade(hit.mesh == kNothing ? LitPixel{} : lighting_near(lit, hit, x, y), way);
    }
    return sum / static_cast<float>(samples);
  }

  World world_;
  Camera camera_;
  RenderOptions options_;
  float pixel_scale_;
  Vector3f lamp_;
};

}  // namespace

namespace {

bool shows_subject(const Scene& scene, const World& world, const Camera& camera, float x, float y) {
  const Hit hit = world.trace(camera.eye, camera.ray(x, y));
  return hit.mesh >= 0 && scene.meshes()[static_cast<std::size_t>(hit.mesh)].subject;
}

}  // namespace

View best_view(const Scene& scene) {
  constexpr int kViews = 24;
  constexpr int kWidth = 96;
  constexpr int kHeight = 60;
  const World world(scene);
  View best;
  double most = -1.0;
  for (int i = 0; i < kViews; ++i) {
    View view;
    view.azimuth = 2.0 * std::numbers::pi * i / kViews;
    const Camera camera(scene, view, kWidth, kHeight);
    double seen = 0.0;
    double sum = 0.0;
    double square_sum = 0.0;
    for (int y = 0; y < kHeight; ++y)
      for (int x = 0; x < kWidth; ++x) {
        if (shows_subject(scene, world, camera, static_cast<float>(x) + 0.5F,
                          static_cast<float>(y) + 0.5F)) {
          ++seen;
          sum += x;
          square_sum += x * x;
        }
      }
    // Much of the arm to be seen, and spread out rather than end on.
    const double spread =
        seen > 0.0 ? std::sqrt(std::max(0.0, square_sum / seen - sum * sum / (seen * seen))) : 0.0;
    const double score = seen * (1.0 + spread);
    if (score <= most) continue;
    most = score;
    best = view;
  }
  return best;
}

std::vector<float> subject_share(const Scene& scene, const View& view,
                                 const RenderOptions& options) {
  constexpr int kSide = 3;  // rays a pixel, each way
  const World world(scene);
  const Camera camera(options.frame != nullptr ? *options.frame : scene, view, options.width,
                      options.height);
  std::vector<float> share(static_cast<std::size_t>(options.width * options.height), 0.0F);
  tbb::parallel_for(0, options.height, [&](int y) {
    for (int x = 0; x < options.width; ++x)
      for (int ray = 0; ray < kSide * kSide; ++ray) {
        const float dx = (static_cast<float>(ray % kSide) + 0.5F) / kSide;
        const float dy = (static_cast<float>(ray / kSide) + 0.5F) / kSide;
        if (shows_subject(scene, world, camera, static_cast<float>(x) + dx,
                          static_cast<float>(y) + dy))
          share[static_cast<std::size_t>(y * options.width + x)] += 1.0F / (kSide * kSide);
      }
  });
  return share;
}

Image render(const Scene& scene, const View& view, const RenderOptions& options) {
  return Renderer(scene, view, options).run();
}

}  // namespace er
