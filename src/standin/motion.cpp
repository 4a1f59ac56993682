#include "motion.h"

namespace yokai::standin {

Point Block::at(double along) const
{
    if (sweep == 0) {
        const double l = length();
        return l > 0 ? mix(from, to, std::min(1.0, along / l)) : to;
    }
    return centre + Affine::turn(sweep * std::min(1.0, along / length()))(from - centre);
}

Point Block::heading(double along) const
{
    if (sweep == 0)
        return unit(to - from);
    const Point out = unit(at(along) - centre);
    return sweep > 0 ? Point{-out.y, out.x} : Point{out.y, -out.x};
}

void Motors::add(Block block)
{
    Queued q{block};
    q.most = block.speed * block.speed;
    if (block.sweep != 0)
        q.most = std::min(q.most, limits_.acceleration * distance(block.from, block.centre));
    if (!queue_.empty()) {
        const Queued& before = queue_.back();
        // Along Z it begins and ends at rest beside a move along the bed.
        const bool alongZ = distance(block.from, block.to) == 0 || distance(before.block.from, before.block.to) == 0;
        const double straight = alongZ ? -1 : dot(before.block.heading(before.block.length()), block.heading(0)); // 1: straight on
        const double half = std::sqrt(std::max(0.0, (1 + straight) / 2));
        q.entryMost = std::min(before.most, q.most);
        if (half < 0.9999999)
            q.entryMost = std::min(q.entryMost, limits_.acceleration * limits_.cornerDeviation * half / (1 - half));
    }
    queue_.push_back(q);
    plan();
}

void Motors::plan()
{
    double exit = 0;
    for (std::size_t i = queue_.size(); i-- > 0;) {
        queue_[i].exit = exit;
        if (i == 0)
            break; // under way: it is entered at the speed it has
        queue_[i].entry = std::min(queue_[i].entryMost, exit + 2 * limits_.acceleration * queue_[i].block.length());
        exit = queue_[i].entry;
    }
}

double Motors::step(double seconds, const std::function<void(Point, double)>& moved)
{
    constexpr double slice = 0.0005; // seconds
    double took = 0;
    while (took < seconds && !queue_.empty()) {
        const Queued& q = queue_.front();
        const double left = q.block.length() - along_, a = limits_.acceleration;
        const double limit = held_ ? 0 : std::min(std::sqrt(q.most), std::sqrt(q.exit + 2 * a * std::max(0.0, left)));
        const double next = limit >= speed_ ? std::min(limit, speed_ + a * slice) : std::max(limit, speed_ - (held_ ? a * slice : speed_));
        if (held_ && next == 0 && speed_ == 0)
            break;
        const double power = q.block.power;
        double way = (speed_ + next) / 2 * slice;
        took += slice;
        speed_ = next;
        if (way >= left) {
            took -= way > 0 ? slice * (way - left) / way : 0;
            way = left;
            at_ = q.block.to;
            z_ = q.block.toZ;
            if (q.block.line > 0)
                lastLine_ = q.block.line;
            along_ = 0;
            queue_.pop_front();
            if (queue_.empty())
                speed_ = 0;
        } else {
            along_ += way;
            at_ = q.block.at(along_);
            z_ = q.block.fromZ + (q.block.toZ - q.block.fromZ) * along_ / q.block.length();
        }
        moved(at_, power);
    }
    return took;
}

void Motors::drop()
{
    queue_.clear();
    along_ = speed_ = 0;
    held_ = false;
}

} // namespace yokai::standin
