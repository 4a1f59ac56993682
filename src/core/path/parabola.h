// Parabolas and lines through points by least squares, each point at a parameter of
// its own (mostly the arc length): where a run of points is, where it heads, how it bends.
#pragma once

#include "base/geometry.h"

#include <cmath>
#include <optional>

namespace yokai {

struct Parabola {
    Point c0, c1, c2;
    Point operator()(double s) const { return c0 + c1 * s + c2 * (s * s); }
};

// The sums of the normal equations.
class ParabolaFit {
public:
    void add(double s, Point q)
    {
        s0_ += 1;
        s1_ += s;
        s2_ += s * s;
        s3_ += s * s * s;
        s4_ += s * s * s * s;
        m0_ = m0_ + q;
        m1_ = m1_ + q * s;
        m2_ = m2_ + q * (s * s);
    }
    // Nothing where the parameters do not tell one: a determinant of less than `least`.
    std::optional<Parabola> parabola(double least = 1e-9) const
    {
        const double det = s0_ * (s2_ * s4_ - s3_ * s3_) - s1_ * (s1_ * s4_ - s3_ * s2_) + s2_ * (s1_ * s3_ - s2_ * s2_);
        if (std::abs(det) < least)
            return std::nullopt;
        const double k0 = s2_ * s4_ - s3_ * s3_, k1 = s2_ * s3_ - s1_ * s4_, k2 = s1_ * s3_ - s2_ * s2_;
        const double l1 = s0_ * s4_ - s2_ * s2_, l2 = s1_ * s2_ - s0_ * s3_, q2 = s0_ * s2_ - s1_ * s1_;
        return Parabola{(m0_ * k0 + m1_ * k1 + m2_ * k2) * (1 / det), (m0_ * k1 + m1_ * l1 + m2_ * l2) * (1 / det),
                        (m0_ * k2 + m1_ * l2 + m2_ * q2) * (1 / det)};
    }
    std::optional<Parabola> line(double least = 1e-9) const
    {
        const double det = s0_ * s2_ - s1_ * s1_;
        if (det < least)
            return std::nullopt;
        return Parabola{(m0_ * s2_ - m1_ * s1_) * (1 / det), (m1_ * s0_ - m0_ * s1_) * (1 / det), {}};
    }

private:
    double s0_ = 0, s1_ = 0, s2_ = 0, s3_ = 0, s4_ = 0;
    Point m0_, m1_, m2_;
};

} // namespace yokai
