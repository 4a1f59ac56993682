// GEOS (the geometry engine) as judge: regions from lines, their buffers, and how they agree.
#pragma once

#include "path/path.h"

#include <algorithm>
#include <cmath>
#include <geos_c.h>
#include <limits>
#include <memory>
#include <vector>

namespace yokai::test {

class Geos {
public:
    Geos() : handle_(GEOS_init_r()) {}
    ~Geos() { GEOS_finish_r(handle_); }
    Geos(const Geos&) = delete;
    Geos& operator=(const Geos&) = delete;
    using Shape = std::shared_ptr<GEOSGeometry>;

    Shape polygon(const Polyline& p) const
    {
        GEOSCoordSequence* s = GEOSCoordSeq_create_r(handle_, unsigned(p.size() + 1), 2);
        for (std::size_t i = 0; i <= p.size(); ++i)
            GEOSCoordSeq_setXY_r(handle_, s, unsigned(i), p[i % p.size()].x, p[i % p.size()].y);
        return own(GEOSGeom_createPolygon_r(handle_, GEOSGeom_createLinearRing_r(handle_, s), nullptr, 0));
    }
    // Parts and openings, largest first, as one region.
    Shape region(std::vector<Polyline> lines) const
    {
        std::sort(lines.begin(), lines.end(), [](const Polyline& a, const Polyline& b) { return std::abs(signedArea(a)) > std::abs(signedArea(b)); });
        Shape out = own(GEOSGeom_createEmptyPolygon_r(handle_));
        for (const Polyline& line : lines) {
            const Shape p = own(GEOSBuffer_r(handle_, polygon(line).get(), 0, 8));
            out = own(signedArea(line) > 0 ? GEOSUnion_r(handle_, out.get(), p.get()) : GEOSDifference_r(handle_, out.get(), p.get()));
        }
        return out;
    }
    bool valid(const Shape& s) const { return GEOSisValid_r(handle_, s.get()) == 1; }
    double area(const Shape& s) const
    {
        double a = 0;
        GEOSArea_r(handle_, s.get(), &a);
        return a;
    }
    // `join` as GEOSBUF_JOIN_ROUND, _MITRE or _BEVEL.
    Shape buffer(const Shape& a, double r, int join = GEOSBUF_JOIN_ROUND, double mitreLimit = 5, int quadrants = 64) const
    {
        return own(GEOSBufferWithStyle_r(handle_, a.get(), r, quadrants, GEOSBUF_CAP_ROUND, join, mitreLimit));
    }
    // How far a place lies from a region; 0 within it. Infinite from an empty one.
    double distanceTo(const Shape& a, Point p) const
    {
        if (GEOSisEmpty_r(handle_, a.get()))
            return std::numeric_limits<double>::infinity();
        GEOSCoordSequence* s = GEOSCoordSeq_create_r(handle_, 1, 2);
        GEOSCoordSeq_setXY_r(handle_, s, 0, p.x, p.y);
        double d = 0;
        GEOSDistance_r(handle_, own(GEOSGeom_createPoint_r(handle_, s)).get(), a.get(), &d);
        return d;
    }
    double distance(const Shape& a, const Shape& b) const // 0 where they meet
    {
        double d = 0;
        GEOSDistance_r(handle_, a.get(), b.get(), &d);
        return d;
    }
    // The farthest that a place of one line lies from the other, both ways, looked for at the places given (Hausdorff).
    double apart(const Polyline& a, const Polyline& b) const
    {
        double d = 0;
        GEOSHausdorffDistance_r(handle_, closedLine(a).get(), closedLine(b).get(), &d);
        return d;
    }
    Shape closedLine(const Polyline& p) const // no ring: that distance knows none
    {
        GEOSCoordSequence* s = GEOSCoordSeq_create_r(handle_, unsigned(p.size() + 1), 2);
        for (std::size_t i = 0; i <= p.size(); ++i)
            GEOSCoordSeq_setXY_r(handle_, s, unsigned(i), p[i % p.size()].x, p[i % p.size()].y);
        return own(GEOSGeom_createLineString_r(handle_, s));
    }
    Shape difference(const Shape& a, const Shape& b) const { return own(GEOSDifference_r(handle_, a.get(), b.get())); }
    // What both cover, and what either does.
    double common(const Shape& a, const Shape& b) const { return area(own(GEOSIntersection_r(handle_, a.get(), b.get()))); }
    double together(const Shape& a, const Shape& b) const { return area(own(GEOSUnion_r(handle_, a.get(), b.get()))); }

private:
    Shape own(GEOSGeometry* g) const
    {
        return {g, [h = handle_](GEOSGeometry* x) { GEOSGeom_destroy_r(h, x); }};
    }
    GEOSContextHandle_t handle_;
};

} // namespace yokai::test
