// SPDX-License-Identifier: GPL-3.0-or-later
// A real profile exchange on a port of its own, and a measured lens to give to it.
#pragma once

#include <thread>

#include "exchange_server/exchange_service.h"
#include "support/sample_profile.h"
#include "support/support.h"

namespace optrel::test {

class RunningExchange {
public:
    RunningExchange() : shelf_(folder_ / "ex"), service_(shelf_) {
        port_ = service_.bind("127.0.0.1", 0);
        thread_ = std::thread([this] { service_.run(); });
    }
    ~RunningExchange() {
        service_.stop();
        thread_.join();
    }
    std::string address() const { return "http://127.0.0.1:" + std::to_string(port_); }
    ProfileRepository& shelf() { return shelf_; }

private:
    TemporaryFolder folder_;
    ProfileRepository shelf_;
    ExchangeService service_;
    int port_ = 0;
    std::thread thread_;
};

/// A copy of the sample lens as a studio measured it, with all that is not for strangers; `more` makes it differ.
inline Profile measured_lens(const std::string& serial, double more = 0) {
    Profile p = sample_profile();
    p.lens_serial = serial;
    p.provenance = {"Iva Brandt",       "2026-03-04T10:11:12Z", "Optrel",
                    "checker:15x10:30", "in the cellar",        {{"IVA_0001.dng", "abc"}}};
    ProfileNode& n = p.nodes[0];
    n.model = LensModel(LensModelKind::radial_tangential, {-0.2 + more, 0.1, 0, 0, 0, 0, 0});
    n.largest_radius_mm = 13.9;
    n.covariance = Eigen::MatrixXd::Zero(10, 10);
    n.quality.frames_used = 13;
    n.quality.rms_px = 0.05;
    n.quality.max_sigma_px = 0.01;
    n.quality.coverage = 0.98;
    return p;
}

}  // namespace optrel::test
