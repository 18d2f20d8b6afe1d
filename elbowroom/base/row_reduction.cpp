#include "elbowroom/base/row_reduction.hpp"

#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "elbowroom/base/row_reduction.cpp"
#include "elbowroom/base/lane_targets.hpp"
//
#include <hwy/foreach_target.h>

#include <algorithm>
#include <utility>

#include "elbowroom/base/lanes-inl.hpp"

HWY_BEFORE_NAMESPACE();
namespace er::HWY_NAMESPACE {

// A pivot of this share of the largest entry is good enough.
constexpr double kLargePivot = 0.01;

// The largest entry of a row in columns that are still open.
struct Peak {
  double size = 0.0;
  int column = -1;
};

// kPacks: in a row, where that is known; or 0.
template <int kPacks>
class Reduction {
 public:
  HWY_INLINE Reduction(const RowSystem& system, ReducedRows& out)
      : rows_(system.rows),
        columns_(system.columns),
        packs_(kPacks > 0 ? kPacks : packs_of(system.columns + system.sides)),
        out_(out) {
    const int width = system.columns + system.sides;
    for (int p = 0; p < packs_; ++p) {
      const PackMask within = lanes_within(p * kPackSize, width);
      for (int i = 0; i < rows_; ++i) {
        const auto k = static_cast<std::size_t>(i);
        store(load(within, system.row[k].data() + p * kPackSize), at(i, p));
      }
      // The sides are no columns to take a pivot from.
      const Pack number = hn::Iota(Tag(), static_cast<double>(p * kPackSize));
      open_[p] = number < pack(static_cast<double>(columns_));
    }
    for (int i = 0; i < rows_; ++i) out.order[static_cast<std::size_t>(i)] = i;
  }

  HWY_INLINE void run(double least) {
    for (int i = 0; i < rows_; ++i) largest_ = std::max(largest_, peak_of(i).size);
    const int most = std::min(rows_, columns_);
    for (out_.rank = 0; out_.rank < most; ++out_.rank) {
      const Peak peak = next_row();
      if (!(peak.size > least * largest_)) break;
      take(peak.column);
    }
  }

 private:
  static constexpr int packs_of(int width) { return (width + kPackSize - 1) / kPackSize; }

  [[nodiscard]] HWY_INLINE double* at(int row, int p) const {
    return out_.row[static_cast<std::size_t>(row)].data() + p * kPackSize;
  }

  [[nodiscard]] HWY_INLINE Peak peak_of(int row) const {
    Pack most = pack(0.0);
    Pack size[kMostPacks];
    for (int p = 0; p < packs_; ++p) {
      size[p] = hn::IfThenElseZero(open_[p], hn::Abs(load(at(row, p))));
      most = largest(most, size[p]);
    }
    const Pack peak = hn::MaxOfLanes(Tag(), most);
    Peak out;
    for (int p = packs_ - 1; p >= 0; --p) {
      const auto lane = hn::FindFirstTrue(Tag(), hn::And(open_[p], size[p] == peak));
      if (lane >= 0) out.column = p * kPackSize + static_cast<int>(lane);
    }
    if (out.column >= 0) out.size = hn::GetLane(peak);  // none equals what is no number
    return out;
  }

  // Brings the row that is to be taken next to order[rank].
  HWY_INLINE Peak next_row() {
    Peak best;
    const int from = out_.rank;
    for (int i = from; i < rows_ && !(best.size > kLargePivot * largest_); ++i) {
      const Peak peak = peak_of(out_.order[static_cast<std::size_t>(i)]);
      if (!(peak.size > best.size)) continue;
      best = peak;
      std::swap(out_.order[static_cast<std::size_t>(from)],
                out_.order[static_cast<std::size_t>(i)]);
    }
    return best;
  }

  HWY_INLINE void take(int column) {
    const auto step = static_cast<std::size_t>(out_.rank);
    const int row = out_.order[step];
    out_.pivot[step] = column;
    const Pack inverse = pack(1.0 / at(row, 0)[column]);
    Pack taken[kMostPacks];
    for (int p = 0; p < packs_; ++p) {
      taken[p] = load(at(row, p)) * inverse;
      store(taken[p], at(row, p));
      const Pack number = hn::Iota(Tag(), static_cast<double>(p * kPackSize));
      open_[p] = hn::AndNot(number == pack(static_cast<double>(column)), open_[p]);
    }
    for (int i = 0; i < rows_; ++i) {
      if (i == row) continue;
      const Pack share = pack(at(i, 0)[column]);
      for (int p = 0; p < packs_; ++p) store(load(at(i, p)) - share * taken[p], at(i, p));
    }
  }

  static constexpr int kMostPacks = kPacks > 0 ? kPacks : packs_of(RowSystem::kMostWidth);
  int rows_;
  int columns_;
  int packs_;
  double largest_ = 0.0;
  ReducedRows& out_;
  PackMask open_[kMostPacks];
};

void reduce_rows_in_lanes(const RowSystem& system, double least, ReducedRows& out) {
  const int width = system.columns + system.sides;
  if (width <= kPackSize)
    Reduction<1>(system, out).run(least);
  else if (width <= 2 * kPackSize)
    Reduction<2>(system, out).run(least);
  else if (width <= 3 * kPackSize)
    Reduction<3>(system, out).run(least);
  else
    Reduction<0>(system, out).run(least);
}

}  // namespace er::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();

#if HWY_ONCE
namespace er {
namespace {
HWY_EXPORT(reduce_rows_in_lanes);
}  // namespace

void reduce_rows(const RowSystem& system, double least, ReducedRows& out) {
  HWY_DYNAMIC_DISPATCH(reduce_rows_in_lanes)(system, least, out);
}

}  // namespace er
#endif
