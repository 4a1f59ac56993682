#include "apart.h"
#include "verbs.h"

#include "base/error.h"

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
    case yokai::ErrorKind::Device:
        return 4;
    case yokai::ErrorKind::Fit:
    case yokai::ErrorKind::Reach:
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
            requireApart(options);
            if (options.verb == "outline")
                return outline(options);
            if (options.verb == "sheet")
                return sheet(options);
            if (options.verb == "plan")
                return plan(options);
            if (options.verb == "cut")
                return cut(options);
            if (options.verb == "layers")
                return layers(options);
            if (options.verb == "engrave")
                return engrave(options);
            if (options.verb == "marks")
                return marks(options);
            if (options.verb == "schema")
                return schema(options);
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
