#include "job/job.h"

#include <algorithm>
#include <set>

namespace yokai {

namespace {

// Walks all of a job and hands out names.
class Namer {
public:
    explicit Namer(Job& job) : job_(job) {}
    template <class T, class... Options> void operator()(const char*, T& value, const Options&...)
    {
        if constexpr (requires { value.n; value = T{1}; }) {
            job_.ids = std::max(job_.ids, int(std::min<std::uint32_t>(value.n, std::uint32_t(most))));
            if (!value || !seen_.insert(value.n).second)
                unnamed_.push_back(&value.n);
        } else if constexpr (IsVector<T>::value) {
            if constexpr (Spec<typename T::value_type>)
                for (auto& entry : value)
                    T::value_type::fields(entry, *this);
        } else if constexpr (Spec<T>) {
            T::fields(value, *this);
        }
    }
    void finish()
    {
        for (std::uint32_t* n : unnamed_)
            *n = next();
    }

private:
    static constexpr int most = 2'000'000'000;
    // One more than any given out; of a job that claims to have given out all, one that it has not.
    std::uint32_t next()
    {
        if (job_.ids < most)
            return std::uint32_t(++job_.ids);
        while (!seen_.insert(++free_).second) {
        }
        return free_;
    }
    Job& job_;
    std::uint32_t free_ = 0;
    std::set<std::uint32_t> seen_;
    std::vector<std::uint32_t*> unnamed_;
};

} // namespace

void giveIds(Job& job)
{
    Namer namer(job);
    for (Piece& piece : job.pieces)
        Piece::fields(piece, namer);
    // A placing's own name, but the piece it refers to is named elsewhere.
    for (Placing& placing : job.placings)
        namer("id", placing.id);
    namer.finish();
}

Piece* find(Job& job, PieceId id)
{
    const auto found = std::find_if(job.pieces.begin(), job.pieces.end(), [&](const Piece& p) { return p.id == id; });
    return found == job.pieces.end() ? nullptr : &*found;
}
const Piece* find(const Job& job, PieceId id) { return find(const_cast<Job&>(job), id); }

const LineSpec* find(const Piece& piece, LineId id)
{
    for (const Layer& layer : piece.layers)
        for (const LineSpec& line : layer.lines)
            if (line.id == id)
                return &line;
    return nullptr;
}

} // namespace yokai
