#include "path/homography.h"

#include <Eigen/LU>

#include <cmath>

namespace yokai {

Point Homography::operator()(Point p) const
{
    const double w = 1 + g * p.x + h * p.y;
    const Point q = affine(p);
    return {q.x / w, q.y / w};
}

Path Homography::operator()(const Path& path) const
{
    Path out = path;
    out.start = (*this)(path.start);
    for (Segment& s : out.segments)
        s = {(*this)(s.c1), (*this)(s.c2), (*this)(s.end), s.line};
    return out;
}

// Its matrix's adjugate, which is as good as the inverse.
Homography Homography::inverse() const
{
    const double a_ = affine.a, b = affine.c, c = affine.e, d = affine.b, e = affine.d, f = affine.f;
    const double w = a_ * e - b * d;
    return {{(e - f * h) / w, (f * g - d) / w, (c * h - b) / w, (a_ - c * g) / w, (b * f - c * e) / w, (c * d - a_ * f) / w}, (d * h - e * g) / w, (b * g - a_ * h) / w};
}

double Homography::areaAt(Point p) const
{
    const Point at = (*this)(p);
    const double w = 1 + g * p.x + h * p.y;
    const Point ux{(affine.a - g * at.x) / w, (affine.b - g * at.y) / w}, uy{(affine.c - h * at.x) / w, (affine.d - h * at.y) / w};
    return cross(ux, uy);
}

namespace {

// 1 or -1 by which way round they go; 0 where they are no corners: three lie in a line, or sides cross.
double wayRound(const Corners4& c)
{
    double sign = 0;
    for (std::size_t k = 0; k < 4; ++k) {
        const Point in = c[(k + 1) % 4] - c[k], on = c[(k + 2) % 4] - c[(k + 1) % 4];
        const double turn = cross(in, on);
        constexpr double flat = 1e-6; // of the two sides' product
        if (!(std::abs(turn) > flat * norm(in) * norm(on)) || turn * sign < 0)
            return 0;
        sign = turn > 0 ? 1 : -1;
    }
    return sign;
}

} // namespace

std::optional<Homography> homographyOf(const Corners4& from, const Corners4& to)
{
    if (wayRound(from) == 0 || wayRound(to) == 0)
        return std::nullopt;
    Eigen::Matrix<double, 8, 8> m;
    Eigen::Matrix<double, 8, 1> v;
    for (int k = 0; k < 4; ++k) {
        const Point p = from[std::size_t(k)], q = to[std::size_t(k)];
        m.row(2 * k) << p.x, p.y, 1, 0, 0, 0, -p.x * q.x, -p.y * q.x;
        m.row(2 * k + 1) << 0, 0, 0, p.x, p.y, 1, -p.x * q.y, -p.y * q.y;
        v[2 * k] = q.x;
        v[2 * k + 1] = q.y;
    }
    const Eigen::Matrix<double, 8, 1> s = m.fullPivLu().solve(v);
    if (!s.allFinite())
        return std::nullopt;
    return Homography{{s[0], s[3], s[1], s[4], s[2], s[5]}, s[6], s[7]};
}

} // namespace yokai
