// SPDX-License-Identifier: GPL-3.0-or-later
#include "frames/jpeg_bytes.h"

#include <cmath>
#include <csetjmp>
#include <cstdio>
#include <cstdlib>
#include <cstring>
#include <vector>

#include <jpeglib.h>

#include "base/error.h"

namespace optrel {

namespace {

// The library reports errors by a long jump, so no object with a destructor may be created between setjmp and the
// call.

struct JpegWriteErrors {
    jpeg_error_mgr base;
    std::jmp_buf leave;
};
void leave_jpeg_writer(j_common_ptr info) { std::longjmp(reinterpret_cast<JpegWriteErrors*>(info->err)->leave, 1); }

class JpegWriter {
public:
    JpegWriter() {
        info_.err = jpeg_std_error(&errors_.base);
        errors_.base.error_exit = leave_jpeg_writer;
        jpeg_create_compress(&info_);
        jpeg_mem_dest(&info_, &bytes_, &size_);
    }
    ~JpegWriter() {
        jpeg_destroy_compress(&info_);
        std::free(bytes_);
    }
    JpegWriter(const JpegWriter&) = delete;
    JpegWriter& operator=(const JpegWriter&) = delete;

    bool write(const cv::Mat& rgb, int quality, const std::string& icc, const std::string& comment,
               const PrintResolution& resolution, std::vector<JSAMPLE>& line) {
        if (setjmp(errors_.leave)) return false;
        info_.image_width = static_cast<JDIMENSION>(rgb.cols);
        info_.image_height = static_cast<JDIMENSION>(rgb.rows);
        info_.input_components = 3;
        info_.in_color_space = JCS_RGB;
        jpeg_set_defaults(&info_);
        jpeg_set_quality(&info_, quality, TRUE);
        info_.dct_method = JDCT_ISLOW;
        info_.optimize_coding = TRUE;
        info_.density_unit = resolution.per_cm ? 2 : 1;
        info_.X_density = info_.Y_density = static_cast<UINT16>(std::lround(resolution.pixels));
        if (quality >= 90) info_.comp_info[0].h_samp_factor = info_.comp_info[0].v_samp_factor = 1;
        jpeg_start_compress(&info_, TRUE);
        if (!comment.empty())
            jpeg_write_marker(&info_, JPEG_COM, reinterpret_cast<const JOCTET*>(comment.data()),
                              static_cast<unsigned>(comment.size()));
        if (!icc.empty())
            jpeg_write_icc_profile(&info_, reinterpret_cast<const JOCTET*>(icc.data()),
                                   static_cast<unsigned>(icc.size()));
        while (info_.next_scanline < info_.image_height) {
            const int row = static_cast<int>(info_.next_scanline);
            if (rgb.depth() == CV_16U) {
                const std::uint16_t* in = rgb.ptr<std::uint16_t>(row);
                for (std::size_t i = 0; i < line.size(); ++i) line[i] = to_8(in[i]);
            } else {
                std::memcpy(line.data(), rgb.ptr(row), line.size());
            }
            JSAMPROW rows[1] = {line.data()};
            jpeg_write_scanlines(&info_, rows, 1);
        }
        jpeg_finish_compress(&info_);
        return true;
    }
    std::string bytes() const { return {reinterpret_cast<const char*>(bytes_), size_}; }

private:
    JpegWriteErrors errors_;
    jpeg_compress_struct info_{};
    unsigned char* bytes_ = nullptr;
    unsigned long size_ = 0;
};

}  // namespace

std::string jpeg_bytes(const cv::Mat& rgb, int quality, const std::string& icc, const std::string& comment,
                       const PrintResolution& resolution) {
    std::vector<JSAMPLE> line(3 * static_cast<std::size_t>(rgb.cols));
    JpegWriter writer;
    if (!writer.write(rgb, quality, icc, comment, resolution, line))
        throw input_error("The picture cannot be made a JPEG: its size is none, or the memory does not suffice.");
    return writer.bytes();
}

}  // namespace optrel
