#include "base/error.h"

#include <new>

namespace yokai {

std::string filled(const std::string& pattern, const std::vector<std::string>& values)
{
    if (values.empty()) // a text of its own, in which braces mean nothing
        return pattern;
    std::string out;
    std::size_t next = 0;
    for (std::size_t i = 0; i < pattern.size(); ++i)
        if (pattern[i] == '{' && i + 1 < pattern.size() && pattern[i + 1] == '}') {
            if (next < values.size())
                out += values[next];
            ++next;
            ++i;
        } else {
            out += pattern[i];
        }
    return out;
}

void rethrowAsError(ErrorKind kind, const std::string& doing)
{
    try {
        throw;
    } catch (const Error&) {
        throw;
    } catch (const Cancelled&) {
        throw;
    } catch (const std::bad_alloc&) {
        throw Error(kind, "there is not enough memory for {}; make the picture smaller or close other programs", doing);
    } catch (const std::exception& e) {
        const std::string_view why = e.what();
        // OpenCV reports a failed allocation as an exception of its own.
        if (why.find("Insufficient memory") != why.npos || why.find("Failed to allocate") != why.npos)
            throw Error(kind, "there is not enough memory for {}; make the picture smaller or close other programs", doing);
        throw Error(kind, "{} failed; undo the last change or use another picture", doing);
    } catch (...) {
        throw Error(kind, "{} failed; undo the last change or use another picture", doing);
    }
}

} // namespace yokai
