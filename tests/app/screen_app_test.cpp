// SPDX-License-Identifier: GPL-3.0-or-later
// Pictures in the colours of the screen, figures under the pointer, and the grounds of the window.
#include <xcb/xcb.h>

#include <QClipboard>
#include <QComboBox>
#include <QPushButton>
#include <QScreen>
#include <cmath>

#include "app_fixture.h"
#include "base/files.h"
#include "frames/colour_space.h"
#include "frames/dng_writer.h"
#include "frames/orientation.h"
#include "inspect/inspect_place.h"
#include "screen/screen_dialog.h"
#include "screen/screen_service.h"
#include "studio/development/prepare_frame.h"
#include "studio/frames/knowledge.h"
#include "support/screen_profiles.h"

using namespace optrel;
using namespace optrel::test;

namespace {

/// Inspect with a frame shown after its correction at 100 percent.
InspectPlace& shown_frame(AppFixture& app) {
    app.add_frames({"SP0001"});
    auto& inspect = app.at<InspectPlace>(theme::Place::inspect);
    app.click_cell(inspect.frames(), 0, 0);
    inspect.view().set_mode(CompareView::Mode::after);
    app.settle();
    return inspect;
}

/// Announces a profile for the first screen of the X server, or withdraws it.
void announce(const std::string& profile) {
    auto* x = qGuiApp->nativeInterface<QNativeInterface::QX11Application>()->connection();
    const xcb_window_t root = xcb_setup_roots_iterator(xcb_get_setup(x)).data->root;
    const std::string name = "_ICC_PROFILE";
    const auto cookie = xcb_intern_atom(x, 0, static_cast<std::uint16_t>(name.size()), name.c_str());
    std::unique_ptr<xcb_intern_atom_reply_t, decltype(&std::free)> atom(xcb_intern_atom_reply(x, cookie, nullptr),
                                                                        std::free);
    if (profile.empty())
        xcb_delete_property(x, root, atom->atom);
    else
        xcb_change_property(x, XCB_PROP_MODE_REPLACE, root, atom->atom, XCB_ATOM_CARDINAL, 8,
                            static_cast<std::uint32_t>(profile.size()), profile.data());
    xcb_flush(x);
}

/// Relative luminance of WCAG 2.1.
double luminance(const QColor& c) {
    return 0.2126 * decode_light(ColourSpace::srgb, c.redF()) + 0.7152 * decode_light(ColourSpace::srgb, c.greenF()) +
           0.0722 * decode_light(ColourSpace::srgb, c.blueF());
}
double contrast(const QColor& a, const QColor& b) {
    const double x = luminance(a), y = luminance(b);
    return (std::max(x, y) + 0.05) / (std::min(x, y) + 0.05);
}

}  // namespace

TEST_CASE("pictures are shown in the colours of the announced profile", "[app][screen][x]") {
    if (QGuiApplication::platformName() != "xcb") return;
    AppFixture app;
    InspectPlace& inspect = shown_frame(app);
    CHECK(inspect.readout().screen().text().contains("no profile known"));
    // What development makes of flat parts of the picture, for Little CMS.
    const FrameRecord& frame = app.session().frames().all().front();
    const Metadata metadata = know(frame.path, frame.metadata, *app.session().entries().fleet()).metadata;
    const auto prepared = prepare_frame(frame.path, metadata, {}, Progress());
    const auto fields = neutral_start();
    inspect.view().set_mode(CompareView::Mode::before);
    inspect.view().set_zoom(1);
    app.settle();
    for (const auto& [name, profile] :
         {std::pair<QString, std::string>("P3-D65 (Optrel)", icc_profile(ColourSpace::p3)),
          {"Odd gamma", odd_gamma_screen()},
          {"Table", table_screen()}}) {
        announce(profile);
        QTest::qWait(150);
        app.settle();
        INFO(name.toStdString());
        CHECK(inspect.readout().screen().text().contains(name + " (announced)"));
        inspect.view().repaint();
        QTest::qWait(100);
        const QImage seen = inspect.screen()->grabWindow(inspect.view().winId()).toImage();
        std::vector<cv::Vec3w> shown;
        std::vector<cv::Vec3f> wanted;
        for (int j = 2; j < 8; ++j)
            for (int i = 2; i < 8; ++i) {  // within words and the small picture of the whole
                // A mean over 16 x 16 px: dither and noise have gone.
                const QPoint at(seen.width() * i / 9, seen.height() * j / 9);
                const QPointF place = inspect.view().to_picture(QPointF(at) / inspect.devicePixelRatioF());
                const cv::Rect area(static_cast<int>(std::lround(place.x())) - 8,
                                    static_cast<int>(std::lround(place.y())) - 8, 16, 16);
                if (area.x < 0 || area.y < 0 || area.br().x >= prepared->size().width ||
                    area.br().y >= prepared->size().height)
                    continue;
                const auto look = prepared->look(fields, std::nullopt, {double(area.x), double(area.y), 1, area.size()},
                                                 Progress(), {.keep = PreparedFrame::Keep::developed});
                cv::Scalar spread, mean;
                cv::meanStdDev(look.rgb, mean, spread);
                if (spread[1] > 1200) continue;  // an edge: where it falls on the screen is another matter
                double sum[3] = {};
                for (int y = -8; y < 8; ++y)
                    for (int x = -8; x < 8; ++x) {
                        const QRgb p = seen.pixel(at + QPoint(x, y));
                        sum[0] += qRed(p);
                        sum[1] += qGreen(p);
                        sum[2] += qBlue(p);
                    }
                cv::Vec3w value;
                cv::Vec3f light;
                for (int c = 0; c < 3; ++c) {
                    value[c] = static_cast<ushort>(std::lround(sum[c] / 256 * 257));
                    light[c] = static_cast<float>(cv::mean(look.developed.channel[static_cast<std::size_t>(c)])[0]);
                }
                shown.push_back(value);
                wanted.push_back(light);
            }
        REQUIRE(shown.size() > 8);
        const auto d =
            differences_on(profile, shown, by_little_cms(wanted, {profile, Intent::relative_colorimetric, true}));
        double mean = 0;
        for (const double one : d) mean += one / static_cast<double>(d.size());
        CHECK(mean < 0.5);
        CHECK(*std::max_element(d.begin(), d.end()) < 1.5);
    }
    announce("not a profile");
    QTest::qWait(150);
    app.settle();
    CHECK(inspect.readout().screen().text().contains("cannot be used"));
    CHECK_FALSE(inspect.readout().screen().toolTip().isEmpty());
    announce("");
    QTest::qWait(150);
    CHECK(inspect.readout().screen().text().contains("no profile known"));
}

TEST_CASE("a profile is chosen from a file for a screen, and forgotten again", "[app][screen]") {
    AppFixture app;
    InspectPlace& inspect = shown_frame(app);
    const auto good = app.path("wide.icc"), bad = app.path("bad.icc");
    write_bytes(good, icc_profile(ColourSpace::p3));
    write_bytes(bad, "nothing");
    const QImage before = inspect.view().grab().toImage();
    {
        ScreenDialog dialog(&inspect);
        dialog.choose_file(QString::fromStdString(bad.string()));
        CHECK(inspect.readout().screen().text().contains("no profile known"));
        dialog.choose_file(QString::fromStdString(good.string()));
    }
    app.settle();
    CHECK(inspect.readout().screen().text().contains("P3-D65 (Optrel) (chosen file)"));
    CHECK(inspect.view().grab().toImage() != before);
    std::filesystem::remove(good);
    ScreenService::here().set_rendering(Intent::perceptual, true);
    CHECK(inspect.readout().screen().text().contains("cannot be used"));
    ScreenService::here().set_rendering(Intent::relative_colorimetric, true);
    {
        ScreenDialog dialog(&inspect);
        dialog.choose_file("");
    }
    app.settle();
    CHECK(inspect.readout().screen().text().contains("no profile known"));
}

TEST_CASE("a choice that cannot be kept is told", "[app][screen]") {
    AppFixture app;
    shown_frame(app);
    const QByteArray before = qgetenv("XDG_CONFIG_HOME");
    // A file stands where the folder of the settings would be.
    fs::create_directories(app.path("config"));
    write_bytes(app.path("config/optrel"), "a file");
    qputenv("XDG_CONFIG_HOME", QByteArray::fromStdString(app.path("config").string()));
    const auto good = app.path("wide.icc");
    write_bytes(good, icc_profile(ColourSpace::p3));
    CHECK(error_of([&] {
              ScreenService::here().choose(ScreenService::here().state(nullptr).screen,
                                           QString::fromStdString(good.string()));
          }) == "file");
    CHECK(error_of([&] { ScreenService::here().set_ground(theme::Ground::light); }) == "file");
    CHECK(read_file(app.path("config/optrel")) == "a file");
    qputenv("XDG_CONFIG_HOME", before);
    ScreenService::here().set_ground(std::nullopt);
}

TEST_CASE("figures stand under the pointer, and those of a patch", "[app][inspect][screen]") {
    AppFixture app;
    InspectPlace& inspect = shown_frame(app);
    CompareView& view = inspect.view();
    CHECK(inspect.readout().text().contains("Point at the picture"));
    QTest::mouseMove(&view, QPoint(view.width() / 2, view.height() / 2));
    app.settle();
    CHECK(inspect.readout().text().startsWith("Px "));
    CHECK(inspect.readout().text().contains("raw"));
    CHECK(inspect.readout().text().contains("L*"));
    inspect.readout().space().setCurrentText("ROMM RGB");
    CHECK(inspect.readout().text().contains("ROMM RGB"));
    QTest::mouseClick(&inspect.readout().patch(), Qt::LeftButton);
    const QPoint from(view.width() / 2 - 20, view.height() / 2 - 20);
    QTest::mousePress(&view, Qt::LeftButton, {}, from);
    QTest::mouseMove(&view, from + QPoint(40, 30));
    QTest::mouseRelease(&view, Qt::LeftButton, {}, from + QPoint(40, 30));
    app.settle();
    CHECK(inspect.readout().text().startsWith("Patch of "));
    CHECK(inspect.readout().text().contains("±"));
    QTest::mouseClick(&inspect.readout().copy(), Qt::LeftButton);
    CHECK(QApplication::clipboard()->text() == inspect.readout().text());
}

TEST_CASE("figures of a frame held in portrait are those under the pointer", "[app][inspect][screen]") {
    AppFixture app;
    fs::create_directories(app.path("frames"));
    const RawPicture raw = read_raw(rig_frame("SP0001"));
    Metadata metadata = read_metadata(rig_frame("SP0001"));
    metadata.orientation = 6;
    write_dng(app.path("frames/PO0001.dng"), raw, metadata);
    app.session().frames().add_folder(QString::fromStdString(app.path("frames").string()));
    app.settle();
    auto& inspect = app.at<InspectPlace>(theme::Place::inspect);
    app.click_cell(inspect.frames(), 0, 0);
    inspect.view().set_mode(CompareView::Mode::after);
    inspect.view().set_zoom(1);
    app.settle();
    const QPoint at(inspect.view().width() / 3, inspect.view().height() / 4);
    QTest::mouseMove(&inspect.view(), at);
    app.settle();
    const QPointF place = inspect.view().to_picture(at);
    const int x = static_cast<int>(std::floor(place.x())), y = static_cast<int>(std::floor(place.y()));
    CHECK(inspect.readout().text().startsWith(QString("Px %1, %2 ").arg(x).arg(y)));
    const cv::Point2d on = place_on_sensor({x + 0.5, y + 0.5}, raw.counts.size(), 6);
    const int row = static_cast<int>(on.y) / 2 * 2, column = static_cast<int>(on.x) / 2 * 2;
    QString counts = "raw";
    for (int r = row; r < row + 2; ++r)
        for (int c = column; c < column + 2; ++c)
            counts +=
                QString(" %1 %2").arg("RGB"[raw.filter.at(r, c)]).arg(raw.counts(r, c) - raw.black.at(r, c), 0, 'f', 0);
    INFO(inspect.readout().text().toStdString());
    CHECK(inspect.readout().text().contains(counts + " of "));
}

TEST_CASE("a part that was looked at closely does not outlive a change at fit", "[app][inspect]") {
    AppFixture app;
    InspectPlace& inspect = shown_frame(app);
    inspect.view().set_zoom(1);
    app.settle();
    inspect.view().set_zoom(0);
    app.settle();
    inspect.hand().number(Field::roll).setValue(5);
    QTest::qWait(450);
    app.settle();
    // The same without a part: the frame is chosen anew.
    AppFixture other;
    InspectPlace& fresh = shown_frame(other);
    fresh.hand().number(Field::roll).setValue(5);
    QTest::qWait(450);
    other.settle();
    inspect.view().clearFocus();
    fresh.view().clearFocus();
    CHECK(inspect.view().grab().toImage() == fresh.view().grab().toImage());
}

TEST_CASE("what is lost is marked, and told in percent", "[app][inspect][screen]") {
    AppFixture app;
    InspectPlace& inspect = shown_frame(app);
    QTest::mouseClick(&inspect.readout().marks(), Qt::LeftButton);
    app.settle();
    CHECK(inspect.readout().lost_text().contains("clipped in the raw"));
    CHECK(inspect.readout().lost_text().contains("%"));
    QTest::mouseClick(&inspect.readout().marks(), Qt::LeftButton);
    app.settle();
}

TEST_CASE("each ground is without a hue, and its words can be read", "[app][widgets][screen]") {
    AppFixture app;
    for (int i = 0; i < theme::ground_count; ++i) {
        theme::use(*qApp, static_cast<theme::Ground>(i));
        INFO(theme::ground_name(theme::ground()).toStdString());
        for (const QColor* grey : {&theme::paper, &theme::bench, &theme::rail, &theme::rule, &theme::edge,
                                   &theme::surround, &theme::ink, &theme::faint_ink})
            CHECK((grey->red() == grey->green() && grey->green() == grey->blue()));
        for (const QColor* text : {&theme::ink, &theme::faint_ink, &theme::mark, &theme::warning, &theme::serious,
                                   &theme::channel_red, &theme::channel_green, &theme::channel_blue})
            for (const QColor* ground : {&theme::paper, &theme::bench}) {
                INFO(text->name().toStdString() << " on " << ground->name().toStdString());
                CHECK(contrast(*text, *ground) >= 4.5);
            }
        for (const QColor* text : {&theme::ink, &theme::faint_ink, &theme::mark})
            for (const QColor* ground : {&theme::rail, &theme::mark_pale})
                if (text != &theme::mark || ground != &theme::rail) {
                    INFO(text->name().toStdString() << " on " << ground->name().toStdString());
                    CHECK(contrast(*text, *ground) >= 4.5);
                }
        CHECK(contrast(theme::on_mark, theme::mark) >= 4.5);
    }
    theme::use(*qApp, theme::Ground::light);
}

TEST_CASE("an area that is to be grey proposes a white balance, which is taken by hand", "[app][inspect][screen]") {
    AppFixture app;
    InspectPlace& inspect = shown_frame(app);
    inspect.show_view("hand");
    app.click("White balance");
    CompareView& view = inspect.view();
    const QRectF picture = view.picture_rect();
    const QPoint from = (picture.center() - QPointF(60, 40)).toPoint(), to = from + QPoint(120, 80);
    QTest::mousePress(&view, Qt::LeftButton, {}, from);
    QTest::mouseMove(&view, to);
    QTest::mouseRelease(&view, Qt::LeftButton, {}, to);
    app.settle();
    auto& take = app.find<QAbstractButton>("Take what white balance proposes");
    REQUIRE(take.isEnabled());
    QTest::mouseClick(&take, Qt::LeftButton);
    app.settle();
    const Sheet* sheet = app.session().sheets().find(app.session().frames().all().front().path);
    REQUIRE(sheet);
    CHECK(sheet->hand.count(Field::white_balance) == 1);
    CHECK(sheet->hand.at(Field::white_balance).text == "offset");
    CHECK(sheet->hand.count(Field::warmth_offset) == 1);
    CHECK(sheet->hand.count(Field::tint_offset) == 1);
    app.session().undo().undo();
    app.settle();
    sheet = app.session().sheets().find(app.session().frames().all().front().path);
    CHECK((!sheet || sheet->hand.count(Field::white_balance) == 0));
}
