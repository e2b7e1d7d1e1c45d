// SPDX-License-Identifier: GPL-3.0-or-later
// What a place is given of the session: the parts that its header names, and no others.
//
//   using Parts = SomeOf<FrameBook, Jobs, Voice>;
//
// has frames(), jobs(), and the functions of Voice. Such a choice is made from the session, or from a choice that has
// at least the same parts; anything else does not compile.
#pragma once

#include <QUndoStack>
#include <concepts>

#include "session/approval_desk.h"
#include "session/baseline_book.h"
#include "session/camera_desk.h"
#include "session/desks.h"
#include "session/export_desk.h"
#include "session/frame_book.h"
#include "session/intake_desk.h"
#include "session/presence_desk.h"
#include "session/profile_book.h"
#include "session/register_book.h"
#include "session/sheet_book.h"
#include "session/travel_desk.h"
#include "session/voice.h"
#include "session/work_desk.h"

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
OPTREL_HOLDS(FrameBook, frames)
OPTREL_HOLDS(RegisterBook, entries)
OPTREL_HOLDS(BaselineBook, baselines)
OPTREL_HOLDS(ProfileBook, profiles)
OPTREL_HOLDS(SheetBook, sheets)
OPTREL_HOLDS(RunDesk, runs)
OPTREL_HOLDS(RolloutDesk, rollouts)
OPTREL_HOLDS(ExportDesk, exports)
OPTREL_HOLDS(IntakeDesk, intake)
OPTREL_HOLDS(ApprovalDesk, approvals)
OPTREL_HOLDS(CameraDesk, cameras)
OPTREL_HOLDS(TravelDesk, travel)
OPTREL_HOLDS(WorkDesk, work)
OPTREL_HOLDS(PresenceDesk, presence)
OPTREL_HOLDS(Jobs, jobs)
OPTREL_HOLDS(QUndoStack, undo)
#undef OPTREL_HOLDS
// NOLINTEND(bugprone-macro-parentheses)

template <>
class Holds<Voice> {
public:
    template <class Owner>
    explicit Holds(Owner& owner) : voice_(owner.voice()) {}
    Voice& voice() const { return voice_; }
    void tell(const QString& message, bool serious = false) const { voice_.tell(message, serious); }
    bool attempt(const std::function<void()>& work) const { return voice_.attempt(work); }

private:
    Voice& voice_;
};

template <class... Part>
class SomeOf : public Holds<Part>... {
public:
    template <class Owner>
    requires(!std::same_as<std::remove_const_t<Owner>, SomeOf>) SomeOf(Owner& owner) : Holds<Part>(owner)... {}
};

}  // namespace optrel
