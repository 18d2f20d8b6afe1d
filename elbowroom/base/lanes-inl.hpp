// What kernels in vector lanes are written with: packs of up to eight doubles, three-vectors of
// them, sines, cosines and angles. Compiled once for each instruction set; only +, -, *, / and
// square roots are used, without contraction, so that every set gives the same bits.
//
// A kernel's file includes lane_targets.hpp, names itself in HWY_TARGET_INCLUDE, includes
// <hwy/foreach_target.h> and then this; see base/sines.cpp.

#if defined(ELBOWROOM_BASE_LANES_INL_HPP) == defined(HWY_TARGET_TOGGLE)
#ifdef ELBOWROOM_BASE_LANES_INL_HPP
#undef ELBOWROOM_BASE_LANES_INL_HPP
#else
#define ELBOWROOM_BASE_LANES_INL_HPP
#endif

#include <hwy/highway.h>

#include "elbowroom/base/pose.hpp"

HWY_BEFORE_NAMESPACE();
namespace er::HWY_NAMESPACE {

namespace hn = hwy::HWY_NAMESPACE;

/// Questions that are answered side by side; one vector, or several after each other.
constexpr int kLanes = 8;
using Tag = hn::CappedTag<double, kLanes>;
using Pack = hn::Vec<Tag>;
using PackMask = hn::Mask<Tag>;
constexpr int kPackSize = static_cast<int>(hn::MaxLanes(Tag()));

HWY_INLINE Pack pack(double value) { return hn::Set(Tag(), value); }
HWY_INLINE Pack load(const double* from) { return hn::LoadU(Tag(), from); }
HWY_INLINE void store(Pack value, double* to) { hn::StoreU(value, Tag(), to); }
HWY_INLINE Pack choose(PackMask mask, Pack yes, Pack no) { return hn::IfThenElse(mask, yes, no); }
HWY_INLINE Pack negate_if(PackMask mask, Pack value) { return choose(mask, hn::Neg(value), value); }
HWY_INLINE Pack square(Pack x) { return x * x; }
/// b where they are equal or one is no number. That is just what the instructions of x86 do; on
/// others, and without vectors, Max and Min are not that sure.
constexpr bool kHasThatExtreme =
    HWY_ARCH_X86 && HWY_TARGET != HWY_SCALAR && HWY_TARGET != HWY_EMU128;
HWY_INLINE Pack largest(Pack a, Pack b) {
  if constexpr (kHasThatExtreme) return hn::Max(a, b);
  return choose(a > b, a, b);
}
HWY_INLINE Pack least(Pack a, Pack b) {
  if constexpr (kHasThatExtreme) return hn::Min(a, b);
  return choose(a < b, a, b);
}
/// The lanes of a group that begins at `from` of `count` values; loads give 0 in the others, and do
/// not read there.
HWY_INLINE PackMask lanes_within(int from, int count) {
  return hn::FirstN(Tag(),
                    static_cast<std::size_t>(count - from < kPackSize ? count - from : kPackSize));
}
HWY_INLINE Pack load(PackMask within, const double* from) {
  if constexpr (kPackSize == 1)  // where the library reads whatever the mask says
    return hn::AllFalse(Tag(), within) ? pack(0.0) : load(from);
  return hn::MaskedLoad(within, Tag(), from);
}
HWY_INLINE void store(Pack value, PackMask within, double* to) {
  hn::BlendedStore(value, within, Tag(), to);
}
HWY_INLINE bool none(PackMask mask) { return hn::AllFalse(Tag(), mask); }

struct SineCosine {
  Pack sine;
  Pack cosine;
};

/// For |x| up to 1e6, to 2e-16. Range reduced by pi/2 in three parts (W. Cody and W. Waite,
/// "Software Manual for the Elementary Functions", 1980); the polynomials on [-pi/4, pi/4] are
/// those of Sun's freely distributable mathematical library, 1993.
HWY_INLINE SineCosine sine_cosine(Pack x) {
  // A double this large has no fraction: adding it rounds, and leaves the whole number in its last
  // bits.
  const Pack large = pack(0x1.8p52);
  const Pack shifted = x * pack(6.36619772367581382433e-01) + large;
  const Pack k = shifted - large;
  Pack r = x - k * pack(1.57079632673412561417e+00);  // exact: the first 33 bits of pi/2
  r = r - k * pack(6.07710050630396597660e-11);       // the next 33
  r = r - k * pack(2.02226624879595063154e-21);
  const Pack z = r * r;
  // In pairs rather than one after the other: half the latency.
  const Pack zz = z * z;
  const Pack p0 = pack(8.33333333332248946124e-03) * z - pack(1.66666666666666324348e-01);
  const Pack p1 = pack(2.75573137070700676789e-06) * z - pack(1.98412698298579493134e-04);
  const Pack p2 = pack(1.58969099521155010221e-10) * z - pack(2.50507602534068634195e-08);
  const Pack sine = r + (r * z) * (p0 + zz * (p1 + zz * p2));
  const Pack q0 = pack(4.16666666666666019037e-02) - pack(1.38888888888741095749e-03) * z;
  const Pack q1 = pack(2.48015872894767294178e-05) - pack(2.75573143513906633035e-07) * z;
  const Pack q2 = pack(2.08757232129817482790e-09) - pack(1.13596475577881948265e-11) * z;
  const Pack q = q0 + zz * (q1 + zz * q2);
  const Pack half = pack(0.5) * z;
  const Pack w = pack(1.0) - half;
  const Pack cosine = w + (((pack(1.0) - w) - half) + zz * q);
  // The quadrant is k mod 4: its lowest bit exchanges the two, the next one is the sine's sign, and
  // that of k + 1 the cosine's.
  using Whole = hn::RebindToSigned<Tag>;
  const auto one = hn::Set(Whole(), 1);
  const auto quadrant = hn::BitCast(Whole(), shifted);
  const PackMask odd = hn::RebindMask(Tag(), hn::TestBit(quadrant, one));
  const auto sign_of = [](auto turned) HWY_ATTR {
    return hn::And(hn::BitCast(Tag(), hn::ShiftLeft<62>(turned)), pack(-0.0));
  };
  return {hn::Xor(choose(odd, cosine, sine), sign_of(quadrant)),
          hn::Xor(choose(odd, sine, cosine), sign_of(hn::Add(quadrant, one)))};
}

/// The angle of the point (x, y), in [-pi, pi], to 4e-16; 0 for no direction. The polynomial is
/// that of Sun's library, too; one division.
HWY_INLINE Pack angle_of(Pack y, Pack x) {
  const Pack ax = hn::Abs(x);
  const Pack ay = hn::Abs(y);
  const PackMask steep = ay > ax;
  const Pack big = choose(steep, ay, ax);
  const Pack small = choose(steep, ax, ay);
  const PackMask wide = small > big * pack(0.41421356237309503);  // tan(pi/8)
  const Pack t = choose(wide, small - big, small) / choose(wide, small + big, big);
  const Pack z = t * t;
  const Pack w = z * z;
  const Pack ww = w * w;
  const Pack e0 = pack(1.42857142725034663711e-01) * w + pack(3.33333333333329318027e-01);
  const Pack e1 = pack(6.66107313738753120669e-02) * w + pack(9.09088713343650656196e-02);
  const Pack e2 = pack(1.62858201153657823623e-02) * w + pack(4.97687799461593236017e-02);
  const Pack even = (e0 + ww * (e1 + ww * e2)) * z;
  const Pack o0 = pack(-1.11111104054623557880e-01) * w - pack(1.99999999998764832476e-01);
  const Pack o1 = pack(-5.83357013379057348645e-02) * w - pack(7.69187620504482999495e-02);
  const Pack odd = (o0 + ww * (o1 - ww * pack(3.65315727442169155270e-02))) * w;
  const Pack flat = t - t * (even + odd);
  Pack angle = choose(
      wide, pack(7.85398163397448278999e-01) + (flat + pack(3.06161699786838301793e-17)), flat);
  angle = choose(
      steep, pack(1.57079632679489655800e+00) - (angle - pack(6.12323399573676603587e-17)), angle);
  angle =
      choose(x < pack(0.0),
             pack(3.14159265358979311600e+00) - (angle - pack(1.22464679914735320717e-16)), angle);
  angle = negate_if(y < pack(0.0), angle);
  return choose(big > pack(0.0), angle, pack(0.0));
}

/// Three packs, of doubles or of floats.
template <class P>
struct LaneVector {
  P x;
  P y;
  P z;
};
using PackVector = LaneVector<Pack>;

HWY_INLINE PackVector pack(const Vector3& v) { return {pack(v[0]), pack(v[1]), pack(v[2])}; }
template <class P>
HWY_INLINE LaneVector<P> operator+(const LaneVector<P>& a, const LaneVector<P>& b) {
  return {a.x + b.x, a.y + b.y, a.z + b.z};
}
template <class P>
HWY_INLINE LaneVector<P> operator-(const LaneVector<P>& a, const LaneVector<P>& b) {
  return {a.x - b.x, a.y - b.y, a.z - b.z};
}
template <class P>
HWY_INLINE LaneVector<P> operator*(P s, const LaneVector<P>& v) {
  return {s * v.x, s * v.y, s * v.z};
}
template <class P>
HWY_INLINE P dot(const LaneVector<P>& a, const LaneVector<P>& b) {
  return a.x * b.x + a.y * b.y + a.z * b.z;
}
template <class P>
HWY_INLINE LaneVector<P> cross(const LaneVector<P>& a, const LaneVector<P>& b) {
  return {a.y * b.z - a.z * b.y, a.z * b.x - a.x * b.z, a.x * b.y - a.y * b.x};
}

}  // namespace er::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();
#endif
