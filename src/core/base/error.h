// The one error type. It is data: a kind, a pattern with a {} for each value, and the
// values. what() is the pattern filled in as it stands, one line a person can act on:
// what went wrong, where, and what to do. A front end may look the pattern up in its own
// language first. The kind decides the batch program's exit code and how the window
// shows it.
#pragma once

#include <stdexcept>
#include <string>
#include <vector>

namespace yokai {

enum class ErrorKind {
    Usage,  // a value that makes no sense as asked
    Input,  // something that cannot be read, or in which nothing is kept
    Output, // something that cannot be written
    Fit,    // marks that cannot be fitted, or not well enough
    Reach,  // a program that would leave the machine's bed
    Device, // a machine that does not answer as it should
};

// Each {} of the pattern replaced by the next value; what is left over is left out.
std::string filled(const std::string& pattern, const std::vector<std::string>& values);

class Error : public std::runtime_error {
public:
    template <class... Values>
    Error(ErrorKind kind, const std::string& pattern, const Values&... values) : Error(kind, pattern, std::vector<std::string>{std::string(values)...})
    {}
    Error(ErrorKind kind, std::string pattern, std::vector<std::string> values)
        : std::runtime_error(filled(pattern, values)), kind_(kind), pattern_(std::move(pattern)), values_(std::move(values))
    {}
    ErrorKind kind() const { return kind_; }
    const std::string& pattern() const { return pattern_; }
    const std::vector<std::string>& values() const { return values_; }

private:
    ErrorKind kind_;
    std::string pattern_;
    std::vector<std::string> values_;
};

// What a library of others threw, as an Error of ours; call it within a catch (...).
// Cancelled passes through untouched. Out of memory says so.
[[noreturn]] void rethrowAsError(ErrorKind kind, const std::string& doing);

// Thrown through a computation that was asked to stop; never shown as a fault.
class Cancelled : public std::exception {
public:
    const char* what() const noexcept override { return "stopped"; }
};

} // namespace yokai
