#include "verbs.h"

#include "base/error.h"
#include "formats/project/schema.h"

#include <iostream>

namespace {

int exitCode(yokai::ErrorKind kind)
{
    switch (kind) {
    case yokai::ErrorKind::Usage:
        return 2;
    case yokai::ErrorKind::Input:
        return 3;
    case yokai::ErrorKind::Output:
        return 4;
    case yokai::ErrorKind::Fit:
    case yokai::ErrorKind::Device:
        return 1;
    }
    return 1;
}

} // namespace

int main(int argc, char** argv)
{
    using namespace yokai::batch;
    Options options;
    if (const auto code = readOptions(argc, argv, options))
        return *code;
    try {
        try {
            if (options.verb == "outline")
                return outline(options);
            if (options.verb == "sheet")
                return sheet(options);
            if (options.verb == "schema")
                return std::cout << yokai::jobSchema() << std::flush ? 0 : 4;
            if (options.verb == "check")
                return check(options);
            return registerCut(options);
        } catch (...) {
            yokai::rethrowAsError(yokai::ErrorKind::Input, "this");
        }
    } catch (const yokai::Error& e) {
        std::cerr << "yokai-batch: " << e.what() << "\n";
        return exitCode(e.kind());
    }
}
