#include "frames/exiv2_guard.h"

#include <exiv2/exiv2.hpp>

namespace optrel {

std::mutex& exiv2_mutex() {
    static std::mutex mutex;
    static const bool ready = [] {
        Exiv2::LogMsg::setLevel(Exiv2::LogMsg::mute);  // what matters reaches people as an Error
        Exiv2::XmpParser::initialize();
        return true;
    }();
    (void)ready;
    return mutex;
}

}  // namespace optrel
