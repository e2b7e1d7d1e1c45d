// SPDX-License-Identifier: GPL-3.0-or-later
// What the panels of Baselines share: the draft's resolver, what is chosen, and what was found out about the draft.
#pragma once

#include <memory>
#include <optional>

#include "session/parts.h"
#include "studio/knowledge.h"

namespace optrel {

/// Who a cell, a trace or a probe is about.
struct Subject {
    QString label;
    FrameFacts facts;
};

class DraftView : public QObject {
    Q_OBJECT
public:
    using Parts =
        SomeOf<FrameBook, RegisterBook, BaselineBook, ProfileBook, ApprovalDesk, TravelDesk, PresenceDesk, Jobs, Voice>;
    explicit DraftView(const Parts& parts);

    const Parts& parts() const { return parts_; }
    const Resolver& resolver() const { return *resolver_; }
    std::shared_ptr<const Resolver> resolver_shared() const { return resolver_; }

    Field field() const { return field_; }
    void choose_field(Field field);
    /// Of the draft; null when none is chosen.
    const Tier* tier() const;
    void choose_tier(const std::string& id);
    const Subject& subject() const { return subject_; }
    void choose_subject(Subject subject);

    /// Worked out off the window's thread after each change; it may lag behind by a moment.
    struct Report {
        std::unordered_map<std::string, Reach> reach;  ///< by tier id
        std::vector<LintFinding> findings;
    };
    const Report& report() const { return *report_; }

    /// Every registered body, then each model with its body unknown; without ISO.
    std::vector<Subject> subjects() const;
    /// The facts of a body at an ISO, with what it records there.
    FrameFacts facts_for(const Body& body, double iso) const {
        return optrel::facts_for(body, iso, parts_.frames().knowledge().habits);
    }
    /// A subject at an ISO, with what it records there.
    Subject at_iso(Subject subject, double iso) const;
    QString text_of(Field field, const Value& value) const;
    /// The name of a tier; a name that was made from its conditions says what people call the body.
    QString name_of(const Tier& tier) const;

signals:
    void draft_changed();
    void field_changed();
    void tier_changed();
    void subject_changed();
    void report_changed();
    void lint_changed();

private:
    void refresh();
    void work_out();
    void find_lint(int number);

    Parts parts_;
    std::shared_ptr<const Resolver> resolver_;
    Field field_ = Field::luminance_noise;
    std::string tier_id_;
    Subject subject_;
    std::shared_ptr<const Report> report_ = std::make_shared<Report>();
    int work_number_ = 0;
};

}  // namespace optrel
