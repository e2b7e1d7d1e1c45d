// SPDX-License-Identifier: GPL-3.0-or-later
#include "frames/foreign_xmp.h"

#include <cctype>
#include <cstring>
#include <map>
#include <string_view>
#include <vector>

#include "frames/xmp_packet.h"

namespace optrel {
namespace {

constexpr std::string_view rdf_namespace = "http://www.w3.org/1999/02/22-rdf-syntax-ns#", xmp_meta = "adobe:ns:meta/";

struct Attribute {
    std::string_view name, value, raw;  ///< raw: name="value"
};

struct Tag {
    std::size_t begin = 0, end = 0;  ///< position in the packet; end: after '>'
    std::string_view name;
    std::vector<Attribute> attributes;
    bool closing = false, empty = false;
};

std::string_view prefix_of(std::string_view name) {
    const auto colon = name.find(':');
    return colon == std::string_view::npos ? std::string_view() : name.substr(0, colon);
}
std::string_view local_of(std::string_view name) {
    const auto colon = name.find(':');
    return colon == std::string_view::npos ? name : name.substr(colon + 1);
}

/// Iterates over the tags of well-formed XML; skips comments, instructions and character data.
class Tags {
public:
    explicit Tags(std::string_view text) : text_(text) {}

    bool next(Tag& tag) {
        while ((at_ = text_.find('<', at_)) != std::string_view::npos) {
            if (skip("<!--", "-->") || skip("<![CDATA[", "]]>") || skip("<?", "?>") || skip("<!", ">")) continue;
            return read(tag);
        }
        return false;
    }

private:
    bool skip(std::string_view begin, std::string_view end) {
        if (text_.substr(at_, begin.size()) != begin) return false;
        const auto stop = text_.find(end, at_ + begin.size());
        at_ = stop == std::string_view::npos ? text_.size() : stop + end.size();
        return true;
    }
    static bool blank(char c) { return c == ' ' || c == '\t' || c == '\n' || c == '\r'; }
    std::string_view name() {
        const std::size_t begin = at_;
        while (at_ < text_.size() && !blank(text_[at_]) && !std::strchr("/>=", text_[at_])) ++at_;
        return text_.substr(begin, at_ - begin);
    }
    bool read(Tag& tag) {
        tag = Tag();
        tag.begin = at_++;
        tag.closing = at_ < text_.size() && text_[at_] == '/';
        if (tag.closing) ++at_;
        tag.name = name();
        while (at_ < text_.size() && text_[at_] != '>') {
            if (blank(text_[at_]) || text_[at_] == '/') {
                tag.empty = text_[at_++] == '/';
                continue;
            }
            const std::size_t begin = at_;
            Attribute a;
            a.name = name();
            while (at_ < text_.size() && text_[at_] != '"' && text_[at_] != '\'') ++at_;
            if (at_ >= text_.size()) return false;
            const char quote = text_[at_++];
            const std::size_t stop = text_.find(quote, at_);
            if (stop == std::string_view::npos) return false;
            a.value = text_.substr(at_, stop - at_);
            at_ = stop + 1;
            a.raw = text_.substr(begin, at_ - begin);
            tag.attributes.push_back(a);
        }
        tag.end = ++at_;
        return at_ <= text_.size();
    }

    std::string_view text_;
    std::size_t at_ = 0;
};

using Namespaces = std::map<std::string_view, std::string_view>;

/// The namespaces that are in scope at a place.
class Scopes {
public:
    void enter(const Tag& tag) {
        Namespaces now = all_.empty() ? Namespaces() : all_.back();
        for (const Attribute& a : tag.attributes)
            if (prefix_of(a.name) == "xmlns") now[local_of(a.name)] = a.value;
        all_.push_back(std::move(now));
    }
    void leave() {
        if (!all_.empty()) all_.pop_back();
    }
    const Namespaces& now() const { return all_.back(); }
    std::string_view uri(std::string_view name) const {
        const auto it = now().find(prefix_of(name));
        return it == now().end() ? std::string_view() : it->second;
    }
    std::size_t depth() const { return all_.size(); }

private:
    std::vector<Namespaces> all_;
};

bool is_rdf(const Scopes& scopes, const Tag& tag, std::string_view local) {
    return local_of(tag.name) == local && scopes.uri(tag.name) == rdf_namespace;
}

/// Properties of one rdf:Description in other namespaces.
struct Block {
    std::string head, attributes, elements;
    std::string_view rdf_prefix;

    std::string text() const {
        if (attributes.empty() && elements.empty()) return {};
        const std::string name = std::string(rdf_prefix) + ":Description";
        return "  <" + name + " " + std::string(rdf_prefix) + ":about=\"\"" + head + attributes + ">" + elements +
               "</" + name + ">\n";
    }
};

Block block_of(const Scopes& scopes, const Tag& description) {
    Block out;
    out.rdf_prefix = prefix_of(description.name);
    for (const auto& [prefix, uri] : scopes.now())
        if (uri != xmp_namespace && uri != xmp_meta)
            out.head += " xmlns:" + std::string(prefix) + "=\"" + std::string(uri) + "\"";
    for (const Attribute& a : description.attributes) {
        const std::string_view prefix = prefix_of(a.name);
        if (prefix.empty() || prefix == "xmlns" || prefix == "xml") continue;
        if (const std::string_view uri = scopes.uri(a.name); uri == xmp_namespace || uri == rdf_namespace) continue;
        out.attributes += " " + std::string(a.raw);
    }
    return out;
}

/// A packet with exactly our three namespaces contains nothing else.
bool only_own(const std::string& packet) {
    std::size_t n = 0;
    for (std::size_t at = packet.find("xmlns:"); at != std::string::npos; at = packet.find("xmlns:", at + 6)) ++n;
    return n <= 3;
}

}  // namespace

std::string foreign_in_xmp(const std::string& packet) {
    if (only_own(packet)) return {};
    std::string out;
    Scopes scopes;
    Tags tags(packet);
    Block block;
    std::size_t in_rdf = 0, in_description = 0, element_begin = 0, in_element = 0;
    const auto end_element = [&](std::size_t end) {
        block.elements += packet.substr(element_begin, end - element_begin);
        in_element = 0;
    };
    for (Tag tag; tags.next(tag);) {
        if (tag.closing) {
            if (in_element && scopes.depth() == in_element) end_element(tag.end);
            if (in_description && scopes.depth() == in_description) {
                out += block.text();
                in_description = 0;
            }
            if (in_rdf && scopes.depth() == in_rdf) in_rdf = 0;
            scopes.leave();
            continue;
        }
        scopes.enter(tag);
        const std::size_t depth = scopes.depth();
        if (!in_rdf && is_rdf(scopes, tag, "RDF")) {
            in_rdf = depth;
        } else if (in_rdf && !in_description && depth == in_rdf + 1 && is_rdf(scopes, tag, "Description")) {
            block = block_of(scopes, tag);
            in_description = depth;
        } else if (in_description && !in_element && depth == in_description + 1 &&
                   scopes.uri(tag.name) != xmp_namespace) {
            element_begin = tag.begin;
            in_element = depth;
        }
        if (!tag.empty) continue;
        if (in_element == depth) end_element(tag.end);
        if (in_description == depth) {
            out += block.text();
            in_description = 0;
        }
        scopes.leave();
    }
    return out;
}

std::string with_foreign(const std::string& packet, const std::string& foreign) {
    const std::size_t at = packet.rfind("</rdf:RDF>");
    if (foreign.empty() || at == std::string::npos) return packet;
    return packet.substr(0, at) + "\n" + foreign + packet.substr(at);
}

}  // namespace optrel
