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
            job_.ids = std::max(job_.ids, int(std::min<std::uint32_t>(value.n, 2'000'000'000u)));
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
            *n = std::uint32_t(++job_.ids);
    }

private:
    Job& job_;
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
