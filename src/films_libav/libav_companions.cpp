// SPDX-License-Identifier: GPL-3.0-or-later
#include "libav_companions.h"

#include <fmt/format.h>

#include <cstring>

#include "base/error.h"
#include "base/words.h"

namespace optrel::av {
namespace {

std::string tag_of(const AVStream& stream, const char* key) {
    const AVDictionaryEntry* e = av_dict_get(stream.metadata, key, nullptr, 0);
    return e ? e->value : "";
}

bool is_cover(const AVStream& stream) { return (stream.disposition & AV_DISPOSITION_ATTACHED_PIC) != 0; }

std::string attachment_name(const AVStream& stream) {
    if (const std::string name = tag_of(stream, "filename"); !name.empty()) return name;
    if (!is_cover(stream)) return "attachment";
    return stream.codecpar->codec_id == AV_CODEC_ID_PNG ? "cover.png" : "cover.jpg";
}

const char* attachment_type(const AVStream& stream) {
    if (!is_cover(stream)) return "application/octet-stream";
    return stream.codecpar->codec_id == AV_CODEC_ID_PNG ? "image/png" : "image/jpeg";
}

/// Copies a file that is embedded in the film; false when it has no bytes.
bool attach(AVFormatContext& to, const AVStream& from) {
    const std::uint8_t* data = is_cover(from) ? from.attached_pic.data : from.codecpar->extradata;
    const int size = is_cover(from) ? from.attached_pic.size : from.codecpar->extradata_size;
    if (!data || size <= 0) return false;
    AVStream* stream = avformat_new_stream(&to, nullptr);
    AVCodecParameters& p = *stream->codecpar;
    p.codec_type = AVMEDIA_TYPE_ATTACHMENT;
    p.codec_id = from.codecpar->codec_id;
    p.extradata = static_cast<std::uint8_t*>(av_mallocz(static_cast<std::size_t>(size) + AV_INPUT_BUFFER_PADDING_SIZE));
    if (!p.extradata) return false;
    std::memcpy(p.extradata, data, static_cast<std::size_t>(size));
    p.extradata_size = size;
    av_dict_copy(&stream->metadata, from.metadata, 0);
    av_dict_set(&stream->metadata, "filename", attachment_name(from).c_str(), 0);
    if (tag_of(from, "mimetype").empty()) av_dict_set(&stream->metadata, "mimetype", attachment_type(from), 0);
    return true;
}

AVStream* copy_stream(AVFormatContext& to, const AVStream& from, const std::string& name) {
    if (avformat_query_codec(to.oformat, from.codecpar->codec_id, FF_COMPLIANCE_NORMAL) == 0)
        throw input_error(fmt::format("{} cannot hold the {} of the film as {}; name it .mkv.", name,
                                      from.codecpar->codec_type == AVMEDIA_TYPE_AUDIO ? "sound" : "subtitles",
                                      from.codecpar->codec_type == AVMEDIA_TYPE_AUDIO ? "it is" : "they are"));
    AVStream* stream = avformat_new_stream(&to, nullptr);
    avcodec_parameters_copy(stream->codecpar, from.codecpar);
    stream->codecpar->codec_tag = 0;
    stream->time_base = from.time_base;
    stream->disposition = from.disposition;
    av_dict_copy(&stream->metadata, from.metadata, 0);
    return stream;
}

void copy_chapters(AVFormatContext& to, const AVFormatContext& from) {
    for (unsigned i = 0; i < from.nb_chapters; ++i) {
        auto* chapter = static_cast<AVChapter*>(av_mallocz(sizeof(AVChapter)));
        if (!chapter) return;
        chapter->id = from.chapters[i]->id;
        chapter->time_base = from.chapters[i]->time_base;
        chapter->start = from.chapters[i]->start;
        chapter->end = from.chapters[i]->end;
        av_dict_copy(&chapter->metadata, from.chapters[i]->metadata, 0);
        int count = static_cast<int>(to.nb_chapters);
        av_dynarray_add(&to.chapters, &count, chapter);
        to.nb_chapters = static_cast<unsigned>(count);
    }
}

/// Display name of a track that no container supports; empty for one that the writer creates from tags and
/// chapters.
std::string other_track(const AVFormatContext& film, const AVStream& stream) {
    if (stream.codecpar->codec_type == AVMEDIA_TYPE_VIDEO) return "a second track of pictures";
    const std::uint32_t tag = stream.codecpar->codec_tag;
    if (tag == MKTAG('t', 'm', 'c', 'd') || (tag == MKTAG('t', 'e', 'x', 't') && film.nb_chapters > 0)) return {};
    const std::string handler = tag_of(stream, "handler_name");
    return handler.empty() ? "a track of data" : fmt::format("a track of data ({})", printable(handler));
}

}  // namespace

Companions add_companions(AVFormatContext& to, const AVFormatContext& from, int video, const std::string& name) {
    Companions out;
    av_dict_copy(&to.metadata, from.metadata, 0);
    copy_chapters(to, from);
    const bool holds_files = is_container(*to.oformat, "matroska");
    std::vector<std::string> files, tracks;
    for (unsigned i = 0; i < from.nb_streams; ++i) {
        if (static_cast<int>(i) == video) continue;
        const AVStream& stream = *from.streams[i];
        const AVMediaType type = stream.codecpar->codec_type;
        if (type == AVMEDIA_TYPE_ATTACHMENT || is_cover(stream)) {
            if (!holds_files || !attach(to, stream)) files.push_back(printable(attachment_name(stream)));
        } else if (type == AVMEDIA_TYPE_AUDIO || type == AVMEDIA_TYPE_SUBTITLE) {
            out.streams[static_cast<int>(i)] = copy_stream(to, stream, name);
        } else if (std::string track = other_track(from, stream); !track.empty()) {
            tracks.push_back(std::move(track));
        }
    }
    if (!files.empty())
        out.left_out.push_back(fmt::format("Left out is what is attached to the film: {}; a film named .mkv keeps it.",
                                           fmt::join(files, ", ")));
    if (!tracks.empty())
        out.left_out.push_back(fmt::format(
            "Left out is {}; pictures, sound, subtitles, chapters and attachments go along.", fmt::join(tracks, ", ")));
    return out;
}

}  // namespace optrel::av
