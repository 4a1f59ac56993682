// Decoding one file into raw samples, a row at a time so that a stop is obeyed, each
// through its own library's error handler. Private to the artwork room.
//
// Samples come in the order they are stored: not turned upright yet. Each reader throws
// Cancelled when stopped and gives empty samples for a damaged file; none writes anything
// to standard error.
#pragma once

#include "artwork/profile.h"

namespace yokai {

RawPicture readPng(const Picture& picture, const Work& work);
RawPicture readJpeg(const Picture& picture, const Work& work);
RawPicture readTiff(const Picture& picture, const Work& work); // the picture's page
RawPicture readWebP(const Picture& picture, const Work& work);
RawPicture readGif(const Picture& picture, const Work& work); // the first frame, on the picture's whole canvas
RawPicture readHeif(const Picture& picture, const Work& work); // HEIC and AVIF, turned as the file says
RawPicture readBmp(const Picture& picture, const Work& work);
RawPicture readDrawing(const Picture& picture, const Work& work); // an SVG, or a PDF's page

// Four bytes a pixel decoded to where they stay.
inline unsigned char* decodeInPlace(RawPicture& raw, int width, int height)
{
    raw.place = std::make_shared<Rgba8>(width, height);
    raw.samples = cv::Mat(height, width, CV_8UC4, raw.place->all().data());
    raw.space = RawPicture::Space::Rgb;
    raw.alpha = true;
    return raw.samples.data;
}

} // namespace yokai
