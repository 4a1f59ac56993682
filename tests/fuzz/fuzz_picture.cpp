// libFuzzer on the picture readers: whatever bytes arrive give a picture of the size
// its header says, or Error(Input) with one line.

#include "artwork/artwork.h"
#include "base/error.h"

#include <cstdlib>
#include <string>

extern "C" int LLVMFuzzerTestOneInput(const unsigned char* data, std::size_t size)
{
    using namespace yokai;
    try {
        Picture picture = pictureFromBytes(Bytes(data, data + size), "fuzzed");
        if (double(picture.info.width) * picture.info.height > 4e6)
            return 0; // a header may promise what it takes long to unpack
        const SharedRgba pixels = decodePicture(picture);
        if (pixels->width() != picture.info.width || pixels->height() != picture.info.height)
            std::abort();
    } catch (const Error& e) {
        if (e.kind() != ErrorKind::Input || std::string(e.what()).find('\n') != std::string::npos)
            std::abort();
    }
    return 0;
}
