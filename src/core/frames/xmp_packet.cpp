// SPDX-License-Identifier: GPL-3.0-or-later
#include "frames/xmp_packet.h"

#include <fmt/format.h>

#include <exiv2/exiv2.hpp>
#include <set>

#include "base/error.h"
#include "frames/exiv2_guard.h"

namespace optrel {

std::string encode_xmp(const XmpProperties& properties) {
    std::lock_guard<std::mutex> lock(exiv2_mutex());
    Exiv2::XmpData xmp;
    std::set<std::string> structures;
    for (const auto& [path, text] : properties) {
        const std::size_t slash = path.find('/');
        Exiv2::XmpTextValue value(text);
        if (slash == std::string::npos) {
            xmp.add(Exiv2::XmpKey("Xmp.optrel." + path), &value);
            continue;
        }
        const std::string outer = path.substr(0, slash);
        if (structures.insert(outer).second) {
            Exiv2::XmpTextValue structure("");
            structure.setXmpStruct();
            xmp.add(Exiv2::XmpKey("Xmp.optrel." + outer), &structure);
        }
        xmp.add(Exiv2::XmpKey("Xmp.optrel." + outer + "/optrel:" + path.substr(slash + 1)), &value);
    }
    std::string packet;
    if (Exiv2::XmpParser::encode(packet, xmp,
                                 Exiv2::XmpParser::omitPacketWrapper | Exiv2::XmpParser::useCompactFormat) != 0)
        throw file_error("A sidecar cannot be written as XMP: the toolkit refused its content; please report it.");
    return "<?xml version=\"1.0\" encoding=\"UTF-8\"?>\n" + packet;
}

XmpProperties decode_xmp(const std::string& text, const std::string& where) {
    if (text.size() > (16u << 20))
        throw input_error(
            fmt::format("The sidecar {} is larger than 16 MB and cannot be one of Optrel's; move it away.", where));
    std::lock_guard<std::mutex> lock(exiv2_mutex());
    Exiv2::XmpData xmp;
    int status = 1;
    try {
        status = Exiv2::XmpParser::decode(xmp, text);
    } catch (const Exiv2::AnyError&) {
        status = 1;
    }
    if (status != 0)
        throw input_error(fmt::format(
            "The sidecar {} is damaged or not XML; move it away or restore it, Optrel leaves it as it is.", where));
    XmpProperties out;
    for (const Exiv2::Xmpdatum& datum : xmp) {
        if (datum.groupName() != "optrel") continue;
        std::string path = datum.tagName();
        if (const std::size_t inner = path.find("/optrel:"); inner != std::string::npos) path.replace(inner, 8, "/");
        const auto* text_value = dynamic_cast<const Exiv2::XmpTextValue*>(&datum.value());
        if (text_value && text_value->xmpStruct() == Exiv2::XmpValue::xsStruct) continue;  // the head of a structure
        out[path] = datum.toString();
    }
    if (out.empty())
        throw input_error(fmt::format(
            "The sidecar {} was written by another program; move it away, Optrel leaves it as it is.", where));
    return out;
}

}  // namespace optrel
