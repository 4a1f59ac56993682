#include "machine/motion.h"

namespace yokai {

namespace {

// The speed squared at which one move may go over into the next.
double joint(const Move& a, const Move& b, const MotionSpec& motion)
{
    const double slower = std::min(a.speed, b.speed), most = slower * slower;
    const double c = -dot(a.leaves, b.heading); // the cosine of the angle between them: -1 straight on
    if (c < -0.999999)
        return most;
    const double half = std::sqrt(std::max(0.0, (1 - c) / 2)); // the sine of half that angle
    return half > 0.999999 ? most : std::min(most, motion.acceleration * motion.cornerDeviation.mm() * half / (1 - half));
}

double secondsOfMove(double length, double in, double out, double most, double acceleration)
{
    // Squares of speeds; up to the top or to where the two ramps meet.
    const double peak = std::min(most, acceleration * length + (in + out) / 2);
    const double top = std::sqrt(peak);
    const double ramps = (2 * peak - in - out) / (2 * acceleration);
    const double steady = std::max(0.0, length - ramps);
    return (2 * top - std::sqrt(in) - std::sqrt(out)) / acceleration + (top > 0 ? steady / top : 0);
}

} // namespace

double secondsOf(std::span<const Move> moves, const MotionSpec& motion)
{
    const double a = motion.acceleration;
    std::vector<double> most(moves.size()), enter(moves.size() + 1, 0.0); // squared
    for (std::size_t i = 0; i < moves.size(); ++i)
        most[i] = std::min(moves[i].speed * moves[i].speed, a * moves[i].radius);
    for (std::size_t i = 1; i < moves.size(); ++i)
        enter[i] = std::min({joint(moves[i - 1], moves[i], motion), most[i - 1], most[i]});
    for (std::size_t i = moves.size(); i-- > 0;)
        enter[i] = std::min(enter[i], enter[i + 1] + 2 * a * moves[i].length);
    for (std::size_t i = 0; i < moves.size(); ++i)
        enter[i + 1] = std::min(enter[i + 1], enter[i] + 2 * a * moves[i].length);
    double sum = 0;
    for (std::size_t i = 0; i < moves.size(); ++i)
        sum += secondsOfMove(moves[i].length, enter[i], enter[i + 1], most[i], a);
    return sum;
}

std::vector<Move> movesOf(const Track& track, double speed)
{
    std::vector<Move> out;
    track.each([&](Point from, const Arc& arc) {
        const double length = lengthOf(from, arc);
        if (length > 1e-9)
            out.push_back({length, speed, tangentOn(from, arc, 0), tangentOn(from, arc, 1), radiusOf(from, arc)});
    });
    return out;
}

void holdBack(std::span<Move> moves, const MotionSpec& motion)
{
    double ahead = 0;
    std::size_t end = 0;
    for (std::size_t k = 0; k < moves.size(); ++k) {
        while (end < moves.size() && end < k + movesAhead)
            ahead += moves[end++].length;
        moves[k].speed = std::min(moves[k].speed, std::sqrt(2 * motion.acceleration * ahead));
        ahead -= moves[k].length;
    }
}

} // namespace yokai
