// SPDX-License-Identifier: GPL-3.0-or-later
#include "session/sharing_service.h"

#include "base/station.h"
#include "base/words.h"
#include "jobs.h"

namespace optrel {

SharingService::SharingService(Store& store, Messages& messages, Jobs& jobs)
    : SessionPart(store, messages, {"found_bundles", "settings"}), jobs_(jobs) {
    reload();
}

void SharingService::reload() {
    messages_.attempt([this] {
        found_ = store_.found_bundles().waiting();
        exchange_ = exchange_of(store_);
        remember();
    });
    emit changed();
}

void SharingService::put_aside(const std::filesystem::path& path) {
    store_.found_bundles().settle(path, "put aside", current_author());
    reload();
}

void SharingService::look_at(const std::filesystem::path& path, std::uint64_t most,
                             const std::function<void(const BundleView&)>& done,
                             const std::function<void(std::uint64_t bytes)>& larger) {
    auto view = std::make_shared<std::optional<BundleView>>();
    auto stated = std::make_shared<std::uint64_t>(0);
    const bool waits = std::any_of(found_.begin(), found_.end(), [&](const FoundBundle& b) { return b.path == path; });
    jobs_.run(
        "Looking at a bundle",
        [=, source = store_.source()](Progress&) {
            if (std::error_code none; waits && !std::filesystem::exists(path, none)) {
                source.open_for_writing().found_bundles().settle(path, "gone", current_author());
                return;
            }
            if (*stated = unpacked_size(path); *stated > most) return;
            const auto store = source.open_for_reading();
            *view = optrel::look_at(*store, read_bundle(path, most));
        },
        [=, this] {
            if (*view) return done(**view);
            if (*stated > most) return larger(*stated);
            reload();
            messages_.tell(QString("%1 is not there any more, so it is offered no longer.")
                               .arg(QString::fromStdString(printable(path.string()))),
                           true);
        });
}

void SharingService::cancel() { jobs_.cancel(); }

void SharingService::take(const BundleView& view, const BundleChoice& choice, const std::filesystem::path& from) {
    auto told = std::make_shared<QStringList>();
    jobs_.run(
        "Taking a bundle in",
        [=, source = store_.source()](Progress&) {
            Store store = source.open_for_writing();
            for (const std::string& sentence : take_from(store, view, choice, current_author()).told)
                *told << QString::fromStdString(sentence);
            if (!from.empty()) store.found_bundles().settle(from, "take in", current_author());
        },
        [=, this] {
            reload();
            emit taken();
            messages_.tell(told->join(" "));
        });
}

void SharingService::pack(const PackingList& list, const BundleLabel& label, bool sign,
                          const std::filesystem::path& out) {
    auto said = std::make_shared<QString>();
    jobs_.run(
        "Packing a bundle",
        [=, source = store_.source()](Progress& progress) {
            const auto store = source.open_for_reading();
            const Bundle bundle = packed(*store, list, label, progress);
            std::optional<SigningKey> key;
            if (sign) key = SigningKey::load_or_make(own_key_path());
            write_bundle(out, bundle_bytes(bundle, key ? &*key : nullptr), true);
            *said =
                QString("%1: %2, %3.")
                    .arg(QString::fromStdString(out.filename().string()), QString::fromStdString(contents_of(bundle)),
                         key ? "signed with your key " + QString::fromStdString(key_words(key->public_key()))
                             : QString("not signed"));
        },
        [=, this] { messages_.tell(*said); });
}

std::filesystem::path SharingService::packed_to_drag(const PackingList& list, const std::string& title) {
    std::filesystem::path out;
    messages_.attempt([&] {
        const Bundle bundle = packed(store_, list, {title, "", ""}, Progress());
        const SigningKey key = SigningKey::load_or_make(own_key_path());
        if (!dragged_) dragged_ = std::make_unique<QTemporaryDir>();
        std::string name = title;
        std::replace(name.begin(), name.end(), '/', '-');
        out = std::filesystem::path(dragged_->path().toStdString()) / (name + bundle_ending);
        write_bundle(out, bundle_bytes(bundle, &key), true);
    });
    return std::filesystem::exists(out) ? out : std::filesystem::path();
}

void SharingService::settle_exchange(const std::string& address) {
    optrel::settle_exchange(store_, address);
    reload();
}

void SharingService::ask(const ExchangeQuestion& question, const std::function<void(const ExchangeAnswer&)>& done) {
    auto answer = std::make_shared<ExchangeAnswer>();
    jobs_.run(
        "Asking the exchange",
        [=, source = store_.source(), address = exchange_](Progress& progress) {
            const auto store = source.open_for_reading();
            *answer = ask_exchange(*store, address, question, progress);
        },
        [=] { done(*answer); });
}

void SharingService::compare(const ExchangeAnswer& answer,
                             const std::function<void(const std::optional<ModelConsensus>&)>& done) {
    auto out = std::make_shared<std::optional<ModelConsensus>>();
    jobs_.run(
        "Comparing copies", [=](Progress& progress) { *out = consensus_of(answer, progress); }, [=] { done(*out); });
}

void SharingService::fetch(const ExchangeEntry& entry, const std::function<void(const BundleView&)>& done) {
    auto view = std::make_shared<BundleView>();
    jobs_.run(
        "Fetching a profile",
        [=, source = store_.source(), address = exchange_](Progress& progress) {
            const auto store = source.open_for_reading();
            *view = fetch_candidate(*store, address, entry.id, entry.key, progress);
        },
        [=] { done(*view); });
}

void SharingService::send(const ExchangeOffer& offer) {
    jobs_.run(
        "Sending a profile", [=, address = exchange_](Progress& progress) { send_offer(address, offer, progress); },
        [=, this] {
            messages_.tell(QString("%1 is at %2 now, for all to find.")
                               .arg(QString::fromStdString(offer.profile.name), QString::fromStdString(exchange_)));
        });
}

void SharingService::put_measurer(const Measurer& measurer) {
    store_.measurers().put(measurer, current_author());
    emit taken();
}

void SharingService::forget_measurer(const std::string& key) {
    store_.measurers().remove(key, current_author());
    emit taken();
}

void SharingService::check_keys() {
    auto news = std::make_shared<QStringList>();
    jobs_.run(
        "Asking for withdrawn keys",
        [=, source = store_.source(), address = exchange_](Progress& progress) {
            Store store = source.open_for_writing();
            for (const std::string& sentence : learn_withdrawn(store, address, current_author(), progress))
                *news << QString::fromStdString(sentence);
        },
        [=, this] {
            emit taken();
            messages_.tell(news->isEmpty() ? "None of the keys that this studio met was withdrawn." : news->join(" "),
                           !news->isEmpty());
        });
}

}  // namespace optrel
