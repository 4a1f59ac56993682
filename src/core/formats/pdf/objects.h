// What a PDF is made of beside its pages' content, as qpdf's objects. Private to the format.
#pragma once

#include "base/work.h"
#include "formats/drawing.h"

#include <qpdf/QPDF.hh>
#include <qpdf/QPDFObjectHandle.hh>

#include <functional>
#include <string>

namespace yokai::pdf {

// A spot colour, and the process inks it looks like where there is no such plate.
QPDFObjectHandle separation(QPDF& pdf, const std::string& name, const double (&ink)[4]);

// Rows of bytes packed as they come (zlib), so that the whole is never held unpacked and a stop is obeyed between two rows.
std::string deflated(int rows, std::size_t bytesARow, const std::function<void(int, unsigned char*)>& row, const Work& work);

// Eight bits a channel, packed.
QPDFObjectHandle imageStream(QPDF& pdf, int width, int height, const char* space, const std::string& packed);

// With its opacity as a soft mask; in the picture's own colours, or its own bytes, where it has them.
QPDFObjectHandle imageOf(QPDF& pdf, const DrawnImage& drawn, const Work& work);

// sRGB, in which what is written without a profile of its own is to be understood.
QPDFObjectHandle outputIntent(QPDF& pdf);

// The file's facts once more as XMP (ISO 16684-1), and in the words of the document's own dictionary.
void addMetadata(QPDF& pdf, const std::string& title);

} // namespace yokai::pdf
