#include "elbowroom/base/trigonometric.hpp"

#include <algorithm>
#include <cmath>
#include <numbers>
#include <utility>

#include "elbowroom/base/sines.hpp"
#include "elbowroom/base/trig_values.hpp"

namespace er {
namespace {

constexpr double kPi = std::numbers::pi;
constexpr double kNarrowest = 1e-8;  // rad; a stretch this short is one point
constexpr double kLastStep = 1e-10;  // rad; after so short a step of Newton's only rounding is left
constexpr double kSameRoot = 1e-14;  // rad; two roots this near are one
constexpr double kSameDoubt = 1e-5;  // rad; of several doubtful points this near, one is listed
constexpr double kTouches = 1e-11;   // of the coefficients' sizes
constexpr int kMostOpen = 256;  // stretches at once; a polynomial that is all but zero has more
constexpr double kNoiseMargin =
    100.0;  // between the noise of a few orders and that of the sum of all

// Angles with the polynomial's values and derivatives there.
struct Samples {
  std::array<double, kMostOpen> at;
  std::array<double, kMostOpen> f;
  std::array<double, kMostOpen> first;
  std::array<double, kMostOpen> second;
  std::array<double, kMostOpen> third;
  std::size_t count = 0;

  void add(double t) { at[count++] = t; }
  void evaluate(const double* c, int degree) {
    trig_values(c, degree, at.data(), static_cast<int>(count),
                {f.data(), first.data(), second.data(), third.data()});
  }
};

// Stretches in which the polynomial rises or falls throughout, with Newton's step from the middle.
struct Monotone {
  std::array<double, kMostOpen / 2> low;
  std::array<double, kMostOpen / 2> high;
  std::array<double, kMostOpen / 2> newton;
  std::size_t count = 0;

  void add(double t, double half, double step) {
    low[count] = t - half;
    high[count] = t + half;
    newton[count++] = t + std::clamp(step, -half, half);
  }
  [[nodiscard]] bool is_full() const { return count == low.size(); }
};

class RootSearch {
 public:
  RootSearch(const double* c, int degree, double noise, double least_floor)
      : c_(c), degree_(degree) {
    double size = std::abs(c[0]);
    for (int k = 1; k <= degree; ++k) {
      const double part = std::sqrt(c[2 * k - 1] * c[2 * k - 1] + c[2 * k] * c[2 * k]);
      fourth_ += part * k * k * k * k;
      size += part;
    }
    floor_ = std::max(noise * size, least_floor);
    touches_ = kTouches * size;
  }

  TrigRoots run() {
    isolate();
    refine();
    std::sort(roots_.at.begin(), roots_.at.begin() + roots_.count);
    return roots_;
  }

 private:
  // Stretches of one width at a time, halved where they are neither.
  void isolate() {
    const int pieces = std::max(4, 4 * degree_);
    double half = kPi / pieces;
    std::array<Samples, 2> memory;
    Samples* now = &memory[0];
    Samples* finer = &memory[1];
    for (int i = 0; i < pieces; ++i) now->add(-kPi + (2 * i + 1) * half);
    for (; now->count > 0; std::swap(now, finer), half *= 0.5) {
      Samples& open = *now;
      Samples& next = *finer;
      open.evaluate(c_, degree_);
      next.count = 0;
      // Taylor's series about the middle.
      const double half2 = half * half / 2.0;
      const double half3 = half2 * half / 3.0;
      const double half4 = half3 * half / 4.0;
      for (std::size_t i = 0; i < open.count; ++i) {
        const double slope = std::abs(open.first[i]);
        const double bend = std::abs(open.second[i]);
        const double third = std::abs(open.third[i]);
        const double change = slope * half + bend * half2 + third * half3 + fourth_ * half4;
        if (std::abs(open.f[i]) - change > floor_) {  // no root here
          if (std::abs(open.f[i]) < touches_ && slope < bend * half) touch(open, i);
          continue;
        }
        if (slope - (bend * half + third * half2 + fourth_ * half3) > degree_ * floor_) {
          if (monotone_.is_full()) return give_up();
          monotone_.add(open.at[i], half, -open.f[i] / open.first[i]);
        } else if (half < kNarrowest) {
          doubt(open.at[i]);
        } else if (next.count + 2 > kMostOpen) {
          return give_up();
        } else {
          next.add(open.at[i] - 0.5 * half);
          next.add(open.at[i] + 0.5 * half);
        }
      }
    }
  }

  // One root at most in each monotone stretch: Newton's steps, all stretches at once, each kept
  // within its bracket.
  void refine() {
    Samples ends;  // low and high, by turns
    for (std::size_t i = 0; i < monotone_.count; ++i) {
      ends.add(monotone_.low[i]);
      ends.add(monotone_.high[i]);
    }
    ends.evaluate(c_, degree_);
    Samples now;
    std::array<std::size_t, kMostOpen> stretch;
    for (std::size_t i = 0; i < monotone_.count; ++i) {
      const double low = ends.f[2 * i];
      const double high = ends.f[2 * i + 1];
      if ((low > 0.0) != (high > 0.0)) {
        stretch[now.count] = i;
        now.add(monotone_.newton[i]);
      } else if (std::min(std::abs(low), std::abs(high)) <= floor_) {
        doubt(std::abs(low) < std::abs(high) ? monotone_.low[i] : monotone_.high[i]);
      }
    }
    for (int step = 0; step < 60 && now.count > 0; ++step) {
      now.evaluate(c_, degree_);
      std::size_t kept = 0;
      for (std::size_t k = 0; k < now.count; ++k) {
        const std::size_t i = stretch[k];
        double& low = monotone_.low[i];
        double& high = monotone_.high[i];
        const double t = now.at[k];
        ((now.f[k] > 0.0) == (ends.f[2 * i] > 0.0) ? low : high) = t;
        const double newton = now.f[k] == 0.0 ? t : t - now.f[k] / now.first[k];
        const bool inside = newton > low && newton < high;
        const bool is_last = std::abs(newton - t) < kLastStep;
        const double next = is_last  ? std::clamp(newton, low, high)
                            : inside ? newton
                                     : 0.5 * (low + high);
        if (is_last || high - low < 1e-15 || step == 59) {
          add(next, kSameRoot);
        } else {
          stretch[kept] = i;
          now.at[kept++] = next;
        }
      }
      now.count = kept;
    }
  }

  void add(double t, double same) {
    t = wrapped(t);
    if (t >= kPi) t -= 2 * kPi;
    for (const double other : roots_)
      if (std::abs(wrapped(t - other)) < same) return;
    if (roots_.count == TrigRoots::kMost) return give_up();
    roots_.at[static_cast<std::size_t>(roots_.count++)] = t;
  }
  void doubt(double t) {
    roots_.all_isolated = false;
    add(t, kSameDoubt);
  }
  void give_up() { roots_.all_isolated = false; }
  void touch(const Samples& samples, std::size_t i) {
    const double t = samples.at[i] - samples.first[i] / samples.second[i];
    if (roots_.touches < TrigRoots::kMostTouches)
      roots_.touch[static_cast<std::size_t>(roots_.touches++)] = t;
  }

  const double* c_;
  int degree_;
  double fourth_ = 0.0;   // no fourth derivative is larger
  double touches_ = 0.0;  // where values are smaller, it all but touches zero
  double floor_ = 0.0;    // smaller values may be rounding, and slopes below degree_ times that
  Monotone monotone_;
  TrigRoots roots_;
};

}  // namespace

double wrapped(double angle) {
  return std::abs(angle) <= kPi ? angle : std::remainder(angle, 2.0 * kPi);
}

TwoAngles solve_cosine_sine(double a, double b, double c, double slack) {
  constexpr double kNothing = 1e-12;
  const double size = std::sqrt(a * a + b * b);
  TwoAngles out;
  if (size < kNothing) {
    out.any = std::abs(c) < 1e-9;
    if (out.any) out.count = 1;
    return out;
  }
  if (std::abs(c) > size * (1.0 + slack) + kNothing) return out;
  const double middle = std::atan2(b, a);
  const double ratio = c / size;
  const double half = std::abs(ratio) >= 1.0 ? (ratio > 0.0 ? 0.0 : kPi) : std::acos(ratio);
  out.angle[out.count++] = wrapped(middle + half);
  if (half != 0.0 && half != kPi) out.angle[out.count++] = wrapped(middle - half);
  return out;
}

EvenAngles::EvenAngles(int how_many) : count(how_many) {
  std::array<double, kMost> angle;
  for (int i = 0; i < count; ++i) angle[static_cast<std::size_t>(i)] = 2.0 * kPi * i / count;
  sines_and_cosines(angle.data(), count, sine.data(), cosine.data());
}

TrigPolynomial TrigPolynomial::through(const double* values, const EvenAngles& angles, int degree) {
  const int count = angles.count;
  // One order: what of the values goes as its cosine and its sine.
  const auto order = [&](int k) {
    std::array<double, 2> sum{};
    for (int i = 0; i < count; ++i) {
      const auto at = static_cast<std::size_t>(i * k % count);
      sum[0] += values[i] * angles.cosine[at];
      sum[1] += values[i] * angles.sine[at];
    }
    return std::array<double, 2>{2.0 * sum[0] / count, 2.0 * sum[1] / count};
  };
  TrigPolynomial out({}, degree);
  out.c_[0] = 0.5 * order(0)[0];
  for (int k = 1; k <= degree; ++k) {
    const auto [even, odd] = order(k);
    out.c_[static_cast<std::size_t>(2 * k - 1)] = even;
    out.c_[static_cast<std::size_t>(2 * k)] = odd;
  }
  for (int k = degree + 1; 2 * k < count; ++k) {
    const auto [even, odd] = order(k);
    out.noise_seen_ = std::max({out.noise_seen_, std::abs(even), std::abs(odd)});
  }
  return out;
}

TrigRoots TrigPolynomial::roots(double noise) const {
  return RootSearch(c_.data(), degree_, noise, kNoiseMargin * noise_seen_).run();
}

}  // namespace er
