// Steps: what a derivation is made of.
//
// A step is a struct of just what it reads, which names itself and makes its result:
//
//     struct EdgeIn {
//         static constexpr const char* step = "edge"; // its own name
//         static constexpr const char* time = "outline"; // under which it is timed
//         using Out = Contours;
//         Made<Coverage> coverage;
//         template <class Self, class V> static void fields(Self& self, V& visit) { visit("coverage", self.coverage); }
//         std::shared_ptr<const Contours> make(Run& run) const;
//     };
//
// Run looks it up under the digest of its fields, or computes, times and remembers it.
// What earlier steps made goes in as Made (there already) or Later (made only if
// needed); both are digested by their own keys.
#pragma once

#include "base/work.h"
#include "job/owned.h"
#include "job/step_cache.h"

#include <chrono>
#include <map>
#include <memory>
#include <string>
#include <vector>

namespace yokai {

using Milliseconds = std::map<std::string, double>; // by what it is timed under, of what was computed now

template <class T> struct Made {
    Key key;
    std::shared_ptr<const T> value;
    const T& operator*() const { return *value; }
    const T* operator->() const { return value.get(); }
    void digestTo(Digest& digest) const { digest.add(key); }
};

class Run {
public:
    Run(StepCache& cache, Milliseconds& times, const Work& work) : cache_(cache), times_(times), work_(work) {}
    const Work& work() const { return work_; }

    template <class In> static Key keyOf(const In& in) { return Digest().add(In::step).add(in).value(); }

    template <class In> Made<typename In::Out> operator()(const In& in)
    {
        using Out = typename In::Out;
        const Key key = keyOf(in);
        if (auto known = cache_.find<Out>(key))
            return {key, std::move(known)};
        work_.check();
        return {key, keep(key, timed(In::time, [&]() -> std::shared_ptr<const Out> { return in.make(*this); }))};
    }
    // Many of a kind that ask for no other step, on all processors.
    template <class In> std::vector<Made<typename In::Out>> all(const std::vector<In>& ins)
    {
        using Out = typename In::Out;
        std::vector<Made<Out>> out(ins.size());
        std::vector<std::size_t> missing;
        for (std::size_t k = 0; k < ins.size(); ++k) {
            out[k].key = keyOf(ins[k]);
            out[k].value = cache_.find<Out>(out[k].key);
            if (!out[k].value)
                missing.push_back(k);
        }
        if (missing.empty())
            return out;
        timed(In::time, [&] {
            parallelSlices(int(missing.size()), 1, [&](int begin, int end) {
                for (int m = begin; m < end; ++m) {
                    work_.check();
                    const std::size_t k = missing[std::size_t(m)];
                    out[k].value = ins[k].make(*this);
                }
            });
            return 0;
        });
        for (const std::size_t k : missing)
            out[k].value = keep(out[k].key, std::move(out[k].value));
        return out;
    }
    // For rows of steps of which only the last is worth remembering.
    template <class Out> std::shared_ptr<const Out> find(const Key& key) { return cache_.find<Out>(key); }
    template <class Out> std::shared_ptr<const Out> keep(const Key& key, std::shared_ptr<const Out> value)
    {
        Owns owns;
        owned(*value, owns);
        cache_.put(key, value, std::move(owns));
        return value;
    }

private:
    // What a step computes for itself counts, not the steps it asks for on the way.
    template <class F> auto timed(const char* name, F f)
    {
        using Clock = std::chrono::steady_clock;
        struct Watch {
            Run& run;
            const char* name;
            double outer;
            Clock::time_point begin = Clock::now();
            ~Watch()
            {
                const double all = std::chrono::duration<double, std::milli>(Clock::now() - begin).count();
                run.times_[name] += all - run.within_;
                run.within_ = outer + all;
            }
        };
        const Watch watch{*this, name, within_};
        within_ = 0;
        return f();
    }

    StepCache& cache_;
    Milliseconds& times_;
    const Work& work_;
    double within_ = 0; // spent in steps asked for by the one under way
};

// A step whose result may not be needed.
template <class In> struct Later {
    In in;
    Key key;
    explicit Later(In input) : in(std::move(input)), key(Run::keyOf(in)) {}
    std::shared_ptr<const typename In::Out> get(Run& run) const { return run(in).value; }
    void digestTo(Digest& digest) const { digest.add(key); }
};

} // namespace yokai
