#include "formats/pdf/objects.h"

#include "base/text.h"

#include <lcms2.h>
#include <zlib.h>

#include <algorithm>
#include <memory>
#include <new>
#include <vector>

namespace yokai::pdf {

using Object = QPDFObjectHandle;

namespace {

// qpdf writes most bytes of a name safely by itself; a '#' it takes for an escape.
std::string nameText(const std::string& text)
{
    std::string out = "/";
    for (const char c : text)
        out += c == '#' ? std::string("#23") : std::string(1, c);
    return out;
}

} // namespace

Object separation(QPDF& pdf, const std::string& name, const double (&ink)[4])
{
    Object tint = Object::newDictionary();
    tint.replaceKey("/FunctionType", Object::newInteger(2));
    tint.replaceKey("/Domain", Object::newArray(std::vector{Object::newInteger(0), Object::newInteger(1)}));
    tint.replaceKey("/N", Object::newInteger(1));
    Object none = Object::newArray(), full = Object::newArray();
    for (const double v : ink) {
        none.appendItem(Object::newInteger(0));
        full.appendItem(Object::newReal(v, 2));
    }
    tint.replaceKey("/C0", none);
    tint.replaceKey("/C1", full);
    return pdf.makeIndirectObject(
        Object::newArray(std::vector{Object::newName("/Separation"), Object::newName(nameText(name)), Object::newName("/DeviceCMYK"), tint}));
}

// Rows of bytes packed as they come (zlib), so that the whole is never held unpacked and a
// stop is obeyed between two rows.
std::string deflated(int rows, std::size_t bytesARow, const std::function<void(int, unsigned char*)>& row, const Work& work)
{
    z_stream z{};
    if (deflateInit(&z, Z_DEFAULT_COMPRESSION) != Z_OK)
        throw std::bad_alloc();
    const struct End {
        z_stream& z;
        ~End() { deflateEnd(&z); }
    } end{z};
    std::string out;
    std::vector<unsigned char> line(bytesARow), buffer(std::size_t(1) << 16);
    for (int y = 0; y < rows; ++y) {
        work.check();
        row(y, line.data());
        z.next_in = line.data();
        z.avail_in = unsigned(line.size());
        do {
            z.next_out = buffer.data();
            z.avail_out = unsigned(buffer.size());
            deflate(&z, y + 1 == rows ? Z_FINISH : Z_NO_FLUSH);
            out.append(reinterpret_cast<const char*>(buffer.data()), buffer.size() - z.avail_out);
        } while (z.avail_out == 0);
    }
    return out;
}

Object imageStream(QPDF& pdf, int width, int height, const char* space, const std::string& packed)
{
    Object image = Object::newStream(&pdf, packed);
    Object dict = image.getDict();
    dict.replaceKey("/Type", Object::newName("/XObject"));
    dict.replaceKey("/Subtype", Object::newName("/Image"));
    dict.replaceKey("/Width", Object::newInteger(width));
    dict.replaceKey("/Height", Object::newInteger(height));
    dict.replaceKey("/ColorSpace", Object::newName(space));
    dict.replaceKey("/BitsPerComponent", Object::newInteger(8));
    dict.replaceKey("/Filter", Object::newName("/FlateDecode"));
    return image;
}

namespace {

constexpr const char* deviceOf(int channels) { return channels == 1 ? "/DeviceGray" : channels == 3 ? "/DeviceRGB" : "/DeviceCMYK"; }

// By the profile the picture came with.
Object spaceOf(QPDF& pdf, int channels, const Bytes& profile)
{
    if (profile.empty())
        return Object::newName(deviceOf(channels));
    Object stream = Object::newStream(&pdf, std::string(profile.begin(), profile.end()));
    stream.getDict().replaceKey("/N", Object::newInteger(channels));
    stream.getDict().replaceKey("/Alternate", Object::newName(deviceOf(channels)));
    return pdf.makeIndirectObject(Object::newArray(std::vector{Object::newName("/ICCBased"), stream}));
}

Object packedImage(QPDF& pdf, const Rgba8& px, int channels, const Work& work)
{
    const auto w = std::size_t(px.width());
    return imageStream(pdf, px.width(), px.height(), deviceOf(channels),
                       deflated(
                           px.height(), std::size_t(channels) * w,
                           [&](int y, unsigned char* to) {
                               for (const Rgba *c = px.row(y), *last = c + w; c != last; ++c) {
                                   *to++ = c->r;
                                   *to++ = c->g;
                                   *to++ = c->b;
                                   if (channels == 4)
                                       *to++ = c->a;
                               }
                           },
                           work));
}

// A JPEG's own bytes. Programs that write the Adobe marker store inks the other way round (common practice).
Object jpegImage(QPDF& pdf, const Picture& picture)
{
    const JpegFacts jpeg = jpegFacts(picture);
    Object image = imageStream(pdf, picture.info.width, picture.info.height, deviceOf(jpeg.channels), std::string(picture.bytes->begin(), picture.bytes->end()));
    image.getDict().replaceKey("/Filter", Object::newName("/DCTDecode"));
    image.getDict().replaceKey("/ColorSpace", spaceOf(pdf, jpeg.channels, jpeg.profile));
    if (jpeg.inverted) {
        Object decode = Object::newArray();
        for (int k = 0; k < 2 * jpeg.channels; ++k)
            decode.appendItem(Object::newInteger(k % 2 ? 0 : 1));
        image.getDict().replaceKey("/Decode", decode);
    }
    return image;
}

} // namespace

Object imageOf(QPDF& pdf, const DrawnImage& drawn, const Work& work)
{
    const Rgba8& px = *drawn.image.pixels;
    const auto w = std::size_t(px.width());
    const std::string alpha = deflated(
        px.height(), w, [&](int y, unsigned char* to) { std::transform(px.row(y), px.row(y) + w, to, [](Rgba c) { return c.a; }); }, work);
    Object image;
    if (drawn.asItCame) {
        image = jpegImage(pdf, *drawn.asItCame);
    } else if (drawn.own) {
        image = packedImage(pdf, *drawn.own->pixels, drawn.own->channels, work);
        image.getDict().replaceKey("/ColorSpace", spaceOf(pdf, drawn.own->channels, drawn.own->profile));
    } else {
        image = packedImage(pdf, px, 3, work);
    }
    image.getDict().replaceKey("/SMask", imageStream(pdf, px.width(), px.height(), "/DeviceGray", alpha));
    return image;
}

Object outputIntent(QPDF& pdf)
{
    const std::unique_ptr<void, decltype(&cmsCloseProfile)> profile(cmsCreate_sRGBProfile(), cmsCloseProfile);
    cmsUInt32Number size = 0;
    if (!profile || !cmsSaveProfileToMem(profile.get(), nullptr, &size))
        throw std::bad_alloc();
    std::string bytes(size, 0);
    cmsSaveProfileToMem(profile.get(), bytes.data(), &size);
    // The day it was made and the digest over it are no part of what it says; the same job gives the same bytes.
    constexpr std::size_t date = 24, dateLength = 12, digest = 84, digestLength = 16;
    bytes.replace(date, dateLength, std::string("\x07\xea\0\x01\0\x01\0\0\0\0\0\0", dateLength));
    bytes.replace(digest, digestLength, std::string(digestLength, '\0'));
    Object stream = Object::newStream(&pdf, bytes);
    stream.getDict().replaceKey("/N", Object::newInteger(3));
    Object intent = Object::newDictionary();
    intent.replaceKey("/Type", Object::newName("/OutputIntent"));
    intent.replaceKey("/S", Object::newName("/GTS_PDFX"));
    intent.replaceKey("/OutputConditionIdentifier", Object::newString("sRGB"));
    intent.replaceKey("/RegistryName", Object::newString("http://www.color.org"));
    intent.replaceKey("/Info", Object::newString("sRGB IEC61966-2.1"));
    intent.replaceKey("/DestOutputProfile", stream);
    return pdf.makeIndirectObject(intent);
}

void addMetadata(QPDF& pdf, const std::string& title)
{
    const std::string packet = "<?xpacket begin=\"\xef\xbb\xbf\" id=\"W5M0MpCehiHzreSzNTczkc9d\"?>\n"
                               "<x:xmpmeta xmlns:x=\"adobe:ns:meta/\"><rdf:RDF xmlns:rdf=\"http://www.w3.org/1999/02/22-rdf-syntax-ns#\">\n"
                               "<rdf:Description rdf:about=\"\" xmlns:dc=\"http://purl.org/dc/elements/1.1/\" xmlns:xmp=\"http://ns.adobe.com/xap/1.0/\" "
                               "xmlns:pdf=\"http://ns.adobe.com/pdf/1.3/\">\n"
                               "<dc:format>application/pdf</dc:format>\n<dc:title><rdf:Alt><rdf:li xml:lang=\"x-default\">" +
                               xmlText(title) +
                               "</rdf:li></rdf:Alt></dc:title>\n<xmp:CreatorTool>Yokai</xmp:CreatorTool>\n<pdf:Trapped>False</pdf:Trapped>\n"
                               "</rdf:Description></rdf:RDF></x:xmpmeta>\n<?xpacket end=\"w\"?>";
    Object stream = Object::newStream(&pdf, packet);
    stream.getDict().replaceKey("/Type", Object::newName("/Metadata"));
    stream.getDict().replaceKey("/Subtype", Object::newName("/XML"));
    pdf.getRoot().replaceKey("/Metadata", pdf.makeIndirectObject(stream));
    Object info = Object::newDictionary();
    info.replaceKey("/Title", Object::newUnicodeString(cleanText(title)));
    info.replaceKey("/Creator", Object::newString("Yokai"));
    info.replaceKey("/Trapped", Object::newName("/False"));
    pdf.getTrailer().replaceKey("/Info", pdf.makeIndirectObject(info));
}

} // namespace yokai::pdf
