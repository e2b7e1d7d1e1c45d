// SPDX-License-Identifier: GPL-3.0-or-later
// Parts of the session that a place may use: those that its header lists.
//
// using Parts = SomeOf<FrameModel, Jobs, Messages>;
//
// provides frames(), jobs(), and the functions of Messages. It can be made from the session, or from another list that
// contains at least the same parts; anything else does not compile.
#pragma once

#include <QUndoStack>
#include <concepts>

#include "session/approval_service.h"
#include "session/baseline_model.h"
#include "session/camera_service.h"
#include "session/export_service.h"
#include "session/frame_model.h"
#include "session/intake_service.h"
#include "session/messages.h"
#include "session/presence_service.h"
#include "session/profile_model.h"
#include "session/register_model.h"
#include "session/services.h"
#include "session/sharing_service.h"
#include "session/sheet_model.h"
#include "session/work_service.h"

namespace optrel {

class Jobs;

template <class Part>
class Holds;

// NOLINTBEGIN(bugprone-macro-parentheses): a type and a name cannot stand in parentheses
#define OPTREL_HOLDS(Part, name)                              \
    template <>                                               \
    class Holds<Part> {                                       \
    public:                                                   \
        template <class Owner>                                \
        explicit Holds(Owner& owner) : part_(owner.name()) {} \
        Part& name() const { return part_; }                  \
                                                              \
    private:                                                  \
        Part& part_;                                          \
    };
OPTREL_HOLDS(FrameModel, frames)
OPTREL_HOLDS(RegisterModel, entries)
OPTREL_HOLDS(BaselineModel, baselines)
OPTREL_HOLDS(ProfileModel, profiles)
OPTREL_HOLDS(SheetModel, sheets)
OPTREL_HOLDS(RunService, runs)
OPTREL_HOLDS(RolloutService, rollouts)
OPTREL_HOLDS(ExportService, exports)
OPTREL_HOLDS(IntakeService, intake)
OPTREL_HOLDS(ApprovalService, approvals)
OPTREL_HOLDS(CameraService, cameras)
OPTREL_HOLDS(SharingService, sharing)
OPTREL_HOLDS(WorkService, work)
OPTREL_HOLDS(PresenceService, presence)
OPTREL_HOLDS(Jobs, jobs)
OPTREL_HOLDS(QUndoStack, undo)
#undef OPTREL_HOLDS
// NOLINTEND(bugprone-macro-parentheses)

template <>
class Holds<Messages> {
public:
    template <class Owner>
    explicit Holds(Owner& owner) : messages_(owner.messages()) {}
    Messages& messages() const { return messages_; }
    void tell(const QString& message, bool serious = false) const { messages_.tell(message, serious); }
    bool attempt(const std::function<void()>& work) const { return messages_.attempt(work); }

private:
    Messages& messages_;
};

template <class... Part>
class SomeOf : public Holds<Part>... {
public:
    template <class Owner>
    requires(!std::same_as<std::remove_const_t<Owner>, SomeOf>) SomeOf(Owner& owner) : Holds<Part>(owner)... {}
};

}  // namespace optrel
