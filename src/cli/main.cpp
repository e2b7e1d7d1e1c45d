// SPDX-License-Identifier: GPL-3.0-or-later
// optrel-cli: a thin shell over core. Exit status: 0 done; 1 the work failed, the reason on standard error; 2 wrong
// usage; 3 (attention alone) something serious waits.
#include <QCoreApplication>
#include <clocale>
#include <cstdio>
#include <exception>

#include "base/heap.h"
#include "cli/commands.h"
#include "cli/frames/words_given.h"
#include "cli/man_page.h"
#include "studio/stations/history_check.h"

int main(int argc, char** argv) {
    using namespace optrel;
    share_heap();
    QCoreApplication qt(argc, argv);  // Qt needs it to find its database drivers
    // The database driver prints messages that the error text replaces.
    qInstallMessageHandler([](QtMsgType, const QMessageLogContext&, const QString& words) {
        if (!words.startsWith("Unable to free statement")) std::fprintf(stderr, "%s\n", qPrintable(words));
    });
    remember_changes();
    std::setlocale(LC_NUMERIC,
                   "C");  // Qt has set the user's locale; numbers on the command line and in files use a point
    CLI::App app{"Optrel: lens calibration, baselines and rollout for a studio's raw frames.", "optrel-cli"};
    app.set_version_flag("--version", "Optrel " OPTREL_VERSION);
    app.require_subcommand(1);
    app.add_flag_callback(
        "--man",
        [&] {
            std::fputs(cli::man_page(app).c_str(), stdout);
            throw CLI::Success();
        },
        "Print the manual page");
    const std::vector<std::string> words = cli::with_present_names(argc, argv);
    app.footer("Each command has a --help of its own.");
    try {
        cli::add_chart(app);
        cli::add_calibrate(app);
        cli::add_map(app);
        cli::add_lens_files(app);
        cli::add_profile(app);
        cli::add_rig(app);
        cli::add_run(app);
        cli::add_noise(app);
        cli::add_defects(app);
        cli::add_dust(app);
        cli::add_fingerprint(app);
        cli::add_store(app);
        cli::add_draft(app);
        cli::add_frame(app);
        cli::add_film(app);
        cli::add_resolve(app);
        cli::add_correct(app);
        cli::add_export(app);
        cli::add_explain(app);
        cli::add_straighten(app);
        cli::add_resolution(app);
        cli::add_rollout(app);
        cli::add_watch(app);
        cli::add_queue(app);
        cli::add_attention(app);
        cli::add_approval(app);
        cli::add_import(app);
        cli::add_intake(app);
        cli::add_camera(app);
        cli::add_colour(app);
        cli::add_bundle(app);
        cli::add_key(app);
        cli::add_exchange(app);
        std::vector<const char*> given{argv[0]};
        for (const std::string& word : words) given.push_back(word.c_str());
        app.parse(static_cast<int>(given.size()), given.data());
        std::fflush(stdout);
        if (std::ferror(stdout))
            throw file_error(
                "The answer cannot be written to standard output: the disk is full or the pipe is closed.");
        return 0;
    } catch (const CLI::CallForHelp& help) {
        return app.exit(help);
    } catch (const CLI::CallForAllHelp& help) {
        return app.exit(help);
    } catch (const CLI::Success& done) {
        return app.exit(done);
    } catch (const CLI::ParseError& error) {
        std::fprintf(stderr, "optrel-cli: %s\n", cli::what_is_wrong(error, app, words).c_str());
        return 2;
    } catch (const cli::SomethingWaits&) {
        return std::fflush(stdout) == 0 ? 3 : 1;
    } catch (const Error& error) {
        std::fprintf(stderr, "optrel-cli: %s\n", error.what());
        return error.kind() == ErrorKind::usage ? 2 : 1;
    } catch (const std::bad_alloc&) {
        std::fprintf(stderr,
                     "optrel-cli: The work needs more memory than there is; close other programs, or leave the largest "
                     "file out.\n");
        return 1;
    } catch (const std::exception& error) {
        std::fprintf(stderr,
                     "optrel-cli: The work stopped at a fault of the program (%s); nothing more was written, please "
                     "report it with the command.\n",
                     error.what());
        return 1;
    }
}
