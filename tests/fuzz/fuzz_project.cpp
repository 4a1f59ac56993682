// libFuzzer on the job reader: a job, which then saves and reads back, or Error(Input).

#include "base/error.h"
#include "formats/project/project.h"

#include <cstdlib>

extern "C" int LLVMFuzzerTestOneInput(const unsigned char* data, std::size_t size)
{
    using namespace yokai;
    try {
        const Job job = readProject(Bytes(data, data + size), "fuzzed");
        if (writeProject(readProject(writeProject(job), "again")) != writeProject(job))
            std::abort();
    } catch (const Error& e) {
        if (e.kind() != ErrorKind::Input)
            std::abort();
    }
    return 0;
}
