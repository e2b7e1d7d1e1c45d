// SPDX-License-Identifier: GPL-3.0-or-later
#include "screen/announced_profile.h"

#include <xcb/xcb.h>
#include <QGuiApplication>
#include <cstdlib>
#include <cstring>
#include <memory>

namespace optrel {
namespace {

/// Profiles of screens have some hundred KB at most. The limit protects memory from a hostile property.
constexpr std::uint32_t most_bytes = 16 << 20;

template <class Reply>
using XcbReply = std::unique_ptr<Reply, decltype(&std::free)>;

xcb_connection_t* x_connection() {
    const auto* x = qGuiApp ? qGuiApp->nativeInterface<QNativeInterface::QX11Application>() : nullptr;
    return x ? x->connection() : nullptr;
}

xcb_window_t root_of(xcb_connection_t* x) { return xcb_setup_roots_iterator(xcb_get_setup(x)).data->root; }

}  // namespace

std::string announced_profile(const QScreen* screen) {
    xcb_connection_t* x = x_connection();
    if (!x || !screen) return "";
    const auto number = QGuiApplication::screens().indexOf(const_cast<QScreen*>(screen));
    const std::string name = number > 0 ? "_ICC_PROFILE_" + std::to_string(number) : "_ICC_PROFILE";
    const XcbReply<xcb_intern_atom_reply_t> atom(
        xcb_intern_atom_reply(x, xcb_intern_atom(x, 1, static_cast<std::uint16_t>(name.size()), name.c_str()), nullptr),
        std::free);
    if (!atom || atom->atom == XCB_ATOM_NONE) return "";
    const XcbReply<xcb_get_property_reply_t> property(
        xcb_get_property_reply(
            x, xcb_get_property(x, 0, root_of(x), atom->atom, XCB_GET_PROPERTY_TYPE_ANY, 0, most_bytes / 4), nullptr),
        std::free);
    if (!property || property->format != 8 || property->bytes_after > 0) return "";
    return {static_cast<const char*>(xcb_get_property_value(property.get())),
            static_cast<std::size_t>(xcb_get_property_value_length(property.get()))};
}

AnnouncedProfileWatch::AnnouncedProfileWatch(std::function<void()> changed) : changed_(std::move(changed)) {
    xcb_connection_t* x = x_connection();
    if (!x) return;
    // Qt asks for events of the root window as well; its wishes are kept.
    const XcbReply<xcb_get_window_attributes_reply_t> now(
        xcb_get_window_attributes_reply(x, xcb_get_window_attributes(x, root_of(x)), nullptr), std::free);
    const std::uint32_t mask = (now ? now->your_event_mask : 0) | XCB_EVENT_MASK_PROPERTY_CHANGE;
    xcb_change_window_attributes(x, root_of(x), XCB_CW_EVENT_MASK, &mask);
    xcb_flush(x);
    qApp->installNativeEventFilter(this);
}

AnnouncedProfileWatch::~AnnouncedProfileWatch() {
    if (qApp) qApp->removeNativeEventFilter(this);
}

bool AnnouncedProfileWatch::nativeEventFilter(const QByteArray& type, void* message, qintptr*) {
    if (type != "xcb_generic_event_t") return false;
    const auto* event = static_cast<const xcb_generic_event_t*>(message);
    if ((event->response_type & 0x7f) != XCB_PROPERTY_NOTIFY) return false;
    const auto* property = reinterpret_cast<const xcb_property_notify_event_t*>(event);
    xcb_connection_t* x = x_connection();
    if (!x || property->window != root_of(x)) return false;
    const XcbReply<xcb_get_atom_name_reply_t> name(
        xcb_get_atom_name_reply(x, xcb_get_atom_name(x, property->atom), nullptr), std::free);
    if (name && std::string(xcb_get_atom_name_name(name.get()), static_cast<std::size_t>(name->name_len))
                    .starts_with("_ICC_PROFILE"))
        changed_();
    return false;
}

}  // namespace optrel
