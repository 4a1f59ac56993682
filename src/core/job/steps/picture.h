// From the file to the working copy in its frame.
#pragma once

#include "job/step.h"

#include <algorithm>

namespace yokai {

// What is seen from above may lie beside the picture: that is not clear, but not there.
inline SharedGray withinPicture(const Framed& framed, const PictureInfo& info, const TiltSpec& tilt, const Work& work)
{
    const auto above = FromAbove::of(tilt, info.width, info.height);
    if (!above)
        return framed.within;
    const Rgba8& px = *framed.pixels;
    const Affine back = framed.fromSource.inverse();
    auto out = std::make_shared<Gray8>(px.width(), px.height());
    eachRow(px.height(), px.width(), work, [&](int y) {
        for (int x = 0; x < px.width(); ++x) {
            out->at(x, y) = framed.within ? framed.within->at(x, y) : 255;
            if (px.at(x, y).a == 255)
                continue;
            const Point at = above->toPicture(back({x + 0.5, y + 0.5}));
            if (!(at.x >= 0 && at.y >= 0 && at.x <= info.width && at.y <= info.height))
                out->at(x, y) = 0;
        }
    });
    return out;
}

struct DecodeIn {
    static constexpr const char* step = "decode";
    static constexpr const char* time = "decode";
    using Out = Rgba8;
    Picture picture;
    template <class Self, class V> static void fields(Self& self, V& visit) { visit("picture", self.picture); }
    std::shared_ptr<const Rgba8> make(Run& run) const { return decodePicture(picture, run.work()); }
};

// Seen from right above, where it was taken at an angle.
struct SourceIn {
    static constexpr const char* step = "source";
    static constexpr const char* time = "decode";
    using Out = Rgba8;
    Later<DecodeIn> picture;
    PictureInfo info;
    std::optional<TiltSpec> tilt;
    explicit SourceIn(const ArtworkSpec& artwork) : picture(DecodeIn{artwork.picture}), info(artwork.picture.info), tilt(artwork.tilt) {}
    template <class Self, class V> static void fields(Self& self, V& visit)
    {
        visit("picture", self.picture);
        if (self.tilt)
            visit("tilt", *self.tilt);
    }
    std::shared_ptr<const Rgba8> make(Run& run) const
    {
        const auto pixels = picture.get(run);
        const auto above = tilt ? FromAbove::of(*tilt, info.width, info.height) : std::nullopt;
        return above ? std::make_shared<const Rgba8>(seenFromAbove(*pixels, *above, run.work())) : pixels;
    }
};

struct FrameIn {
    static constexpr const char* step = "frame";
    static constexpr const char* time = "frame";
    using Out = Framed;
    Later<SourceIn> source;
    FrameSpec frame;
    template <class Self, class V> static void fields(Self& self, V& visit)
    {
        visit("source", self.source);
        visit("frame", self.frame);
    }
    std::shared_ptr<const Framed> make(Run& run) const
    {
        auto out = std::make_shared<Framed>(framePicture(source.get(run), frame, run.work()));
        if (source.in.tilt)
            out->within = withinPicture(*out, source.in.info, *source.in.tilt, run.work());
        const auto pixels = out->pixels->all();
        out->clear = std::none_of(pixels.begin(), pixels.end(), [](Rgba c) { return c.a > 0; }); // of most the first few tell
        return out;
    }
};

} // namespace yokai
