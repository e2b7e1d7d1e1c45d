// SPDX-License-Identifier: GPL-3.0-or-later
// Any edit that replaces one value by another, undoable.
#pragma once

#include <QUndoCommand>
#include <functional>

namespace optrel {

template <class Value>
class EditEntry : public QUndoCommand {
public:
    EditEntry(const QString& what, Value before, Value after, std::function<void(const Value&)> put)
        : QUndoCommand(what), before_(std::move(before)), after_(std::move(after)), put_(std::move(put)) {}
    void redo() override { put_(after_); }
    void undo() override { put_(before_); }

private:
    Value before_, after_;
    std::function<void(const Value&)> put_;
};

}  // namespace optrel
