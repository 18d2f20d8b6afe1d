// Checks the evidence that a path is free, with code of its own throughout: where links are, how
// far parts can move, how far apart two parts are along a normal, which pairs there are.
#pragma once

#include "elbowroom/collision/certificate.hpp"

namespace er {

/// What checking took, and found.
struct CheckedCertificate {
  long stretches = 0;  ///< of the certificate
  long looks = 0;      ///< at a pair of parts over a stretch
  /// What is left at the tightest place, metres: distance along the normal, less travel and
  /// clearance.
  double least_left = std::numeric_limits<double>::infinity();
  PartName first = {};  ///< there
  PartName second = {};
  int line = 0;
  double at = 0.0;

  [[nodiscard]] std::string summary(const Certificate& certificate) const;
};

/// A yes only when every pair of parts that must not meet is proved to keep the clearance over
/// every line of the path. A no names the pair and the place where the evidence is missing, false
/// or too weak; that says nothing against the path, only against the certificate. Other
/// arms stand at home. Throws InputError when the certificate is of another arm, or not whole.
Verdict<CheckedCertificate> check_certificate(const Cell& cell, const Arm& arm,
                                              const Certificate& certificate);

}  // namespace er
