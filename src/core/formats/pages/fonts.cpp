#include "formats/pages/fonts.h"

// The assembler takes a file in as it is; as a table of numbers the compiler would read it for seconds.
#define YOKAI_TAKE_IN(name, file)                                                                                                                                                  \
    asm(".pushsection .rodata\n.balign 16\n.global " #name "\n" #name ":\n.incbin \"" file "\"\n.global " #name "_end\n" #name "_end:\n.byte 0\n.popsection\n");                   \
    extern "C" const unsigned char name[], name##_end[];

YOKAI_TAKE_IN(yokai_inter_regular, YOKAI_INTER "/Inter-Regular.otf")
YOKAI_TAKE_IN(yokai_inter_semibold, YOKAI_INTER "/Inter-SemiBold.otf")

namespace yokai::pages {

std::span<const unsigned char> interRegular() { return {yokai_inter_regular, yokai_inter_regular_end}; }
std::span<const unsigned char> interSemiBold() { return {yokai_inter_semibold, yokai_inter_semibold_end}; }

} // namespace yokai::pages
