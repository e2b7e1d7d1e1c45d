// SPDX-License-Identifier: GPL-3.0-or-later
#include "baselines/draft_view.h"

#include <algorithm>

#include "base/choose.h"
#include "jobs.h"
#include "studio/frames/knowledge.h"

namespace optrel {

DraftView::DraftView(const Parts& parts) : parts_(parts) {
    connect(&parts_.baselines(), &BaselineModel::changed, this, &DraftView::refresh);
    connect(&parts_.entries(), &RegisterModel::changed, this, &DraftView::refresh);
    connect(&parts_.frames(), &FrameModel::knowledge_changed, this, &DraftView::refresh);
    resolver_ = std::make_shared<const Resolver>(parts_.baselines().draft());
}

void DraftView::refresh() {
    resolver_ = std::make_shared<const Resolver>(parts_.baselines().draft());
    if (subject_.facts.model.empty() && !parts_.entries().bodies().empty())
        subject_ = {QString::fromStdString(parts_.entries().bodies().front().label()),
                    facts_for(parts_.entries().bodies().front(), 800)};
    emit draft_changed();
    work_out();
}

void DraftView::work_out() {
    const int number = ++work_number_;
    auto out = std::make_shared<Report>();
    const auto knowledge = parts_.frames().knowledge_shared();
    const auto resolver = resolver_;
    const auto before = report_;
    parts_.jobs().run_quietly(
        [=] {
            out->reach = reach_of_all(*resolver, knowledge->groups(), knowledge->bodies);
            out->findings = before->findings;  // the previous ones, until the new ones are computed
        },
        [=, this] {
            if (number != work_number_) return;
            report_ = out;
            emit report_changed();
            find_lint(number);
        });
}

void DraftView::find_lint(int number) {
    auto out = std::make_shared<Report>(*report_);
    const auto knowledge = parts_.frames().knowledge_shared();
    const auto resolver = resolver_;
    parts_.jobs().run_quietly(
        [=] { out->findings = lint(resolver->revision(), knowledge->groups(), knowledge->bodies); },
        [=, this] {
            if (number != work_number_) return;
            report_ = out;
            emit lint_changed();
        });
}

void DraftView::choose_field(Field field) {
    if (field == field_) return;
    field_ = field;
    emit field_changed();
}

const Tier* DraftView::tier() const { return resolver_->revision().tier(tier_id_); }

void DraftView::choose_tier(const std::string& id) {
    if (id == tier_id_) return;
    tier_id_ = id;
    emit tier_changed();
}

void DraftView::choose_subject(Subject subject) {
    subject_ = std::move(subject);
    emit subject_changed();
}

std::vector<Subject> DraftView::subjects() const {
    std::vector<Subject> out;
    std::vector<std::string> models;
    for (const Body& b : parts_.entries().bodies()) {
        out.push_back({QString::fromStdString(b.label()), facts_for(b, 0)});
        const std::string& model = out.back().facts.model;
        if (std::find(models.begin(), models.end(), model) == models.end()) models.push_back(model);
    }
    for (const std::string& model : models) {
        FrameFacts facts;
        facts.model = model;
        out.push_back({"some " + QString::fromStdString(model), facts});
    }
    return out;
}

Subject DraftView::at_iso(Subject subject, double iso) const {
    subject.facts.iso = iso;
    subject.facts.recorded =
        parts_.frames().knowledge().habits.at(subject.facts.model, subject.facts.body, iso).recorded;
    return subject;
}

QString DraftView::text_of(Field field, const Value& value) const {
    if (field == Field::lens_profile && value.text != "automatic" && value.text != "none")
        return parts_.profiles().name(value.text);
    return QString::fromStdString(to_display(field, value));
}

QString DraftView::name_of(const Tier& tier) const {
    if (tier.name != describe_conditions(tier)) return QString::fromStdString(tier.name);
    Tier shown = tier;
    if (const Body* body = tier.scope == Scope::body ? parts_.entries().fleet()->body(tier.target) : nullptr)
        shown.target = body->label();
    if (const LensEntry* lens =
            tier.lens_condition == LensCondition::copy ? parts_.entries().fleet()->lens(tier.lens) : nullptr)
        shown.lens = lens->label();
    const QString text = QString::fromStdString(describe_conditions(shown));
    return first_of<QString>({{text.startsWith("body "), text.mid(5)}, {text.startsWith("model "), text.mid(6)}}, text);
}

}  // namespace optrel
