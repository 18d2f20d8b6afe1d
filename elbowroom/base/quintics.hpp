// The polynomials of a stretch of a curve, one a joint. Motions are made of thousands of stretches,
// so those of few joints are kept in place, without an allocation for each.
#pragma once

#include <algorithm>
#include <initializer_list>
#include <utility>
#include <vector>

#include "elbowroom/base/polynomial.hpp"

namespace er {

/// A vector of polynomials, much as std::vector has it.
class Quintics {
 public:
  /// Up to so many are kept in place.
  static constexpr std::size_t kInPlace = 8;

  Quintics() {}  // NOLINT: those in place are not set
  Quintics(std::initializer_list<Quintic> values) { append(values.begin(), values.end()); }
  explicit Quintics(std::size_t count, const Quintic& value = {}) { resize(count, value); }
  template <class Iterator>
  Quintics(Iterator first, Iterator last) {
    append(first, last);
  }
  Quintics(const Quintics& other) : size_(other.size_), many_(other.many_) { copy_few(other); }
  Quintics(Quintics&& other) noexcept : size_(other.size_), many_(std::move(other.many_)) {
    copy_few(other);
    other.size_ = 0;
  }
  Quintics& operator=(const Quintics& other) {
    if (this == &other) return *this;
    many_ = other.many_;
    size_ = other.size_;
    copy_few(other);
    return *this;
  }
  Quintics& operator=(Quintics&& other) noexcept {
    if (this == &other) return *this;
    many_ = std::move(other.many_);
    size_ = std::exchange(other.size_, 0);
    copy_few(other);
    return *this;
  }
  ~Quintics() = default;

  [[nodiscard]] std::size_t size() const { return size_; }
  [[nodiscard]] bool empty() const { return size_ == 0; }
  [[nodiscard]] const Quintic* data() const {
    return size_ > kInPlace ? many_.data() : few_.data();
  }
  [[nodiscard]] Quintic* data() { return size_ > kInPlace ? many_.data() : few_.data(); }
  [[nodiscard]] const Quintic* begin() const { return data(); }
  [[nodiscard]] const Quintic* end() const { return data() + size_; }
  [[nodiscard]] Quintic* begin() { return data(); }
  [[nodiscard]] Quintic* end() { return data() + size_; }
  const Quintic& operator[](std::size_t i) const { return data()[i]; }
  Quintic& operator[](std::size_t i) { return data()[i]; }
  [[nodiscard]] const Quintic& front() const { return *begin(); }
  [[nodiscard]] const Quintic& back() const { return *(end() - 1); }
  [[nodiscard]] Quintic& back() { return *(end() - 1); }

  friend bool operator==(const Quintics& a, const Quintics& b) {
    return std::equal(a.begin(), a.end(), b.begin(), b.end());
  }

  void push_back(const Quintic& value) {
    if (size_ < kInPlace)
      few_[size_++] = value;
    else
      resize(size_ + 1, value);
  }
  template <class Iterator>
  void append(Iterator first, Iterator last) {
    for (; first != last; ++first) push_back(*first);
  }
  /// To the count; what was not there is not set, or zero.
  void resize_for_overwrite(std::size_t count) {
    if (count <= kInPlace && size_ <= kInPlace)
      size_ = count;
    else
      resize(count);
  }
  /// To the count, with more of `value` where there were less.
  void resize(std::size_t count, const Quintic& value = {}) {
    if (count > kInPlace) {
      if (size_ <= kInPlace) many_.assign(few_.begin(), few_.begin() + static_cast<long>(size_));
      many_.resize(count, value);
    } else {
      if (size_ > kInPlace)
        std::copy(many_.begin(), many_.begin() + static_cast<long>(count), few_.begin());
      for (std::size_t i = size_; i < count; ++i) few_[i] = value;
    }
    size_ = count;
  }

 private:
  // Of those in place, what is in use.
  void copy_few(const Quintics& other) {
    if (size_ <= kInPlace) std::copy_n(other.few_.begin(), size_, few_.begin());
  }

  std::size_t size_ = 0;
  std::array<Quintic, kInPlace> few_;
  std::vector<Quintic> many_;  // all of them, where they are more
};

}  // namespace er
