// SPDX-License-Identifier: GPL-3.0-or-later
#include "remarks/ask_remark.h"

#include <QInputDialog>

#include "baselines/field.h"
#include "widgets/place.h"

namespace optrel {

void ask_remark(const RemarkParts& parts, QWidget* window, const std::string& kind, const std::string& subject,
                const QString& name, const std::string& field) {
    QString on = QString("On the %1 %2").arg(q(kind), name);
    for (const FieldInfo& f : all_fields())
        if (f.id == field) on += ", " + q(f.label);
    bool taken = false;
    const QString words = QInputDialog::getMultiLineText(
        window, "Remark", on + ":\nit stands in Attention for everybody until it is settled.", "", &taken);
    if (!taken || words.trimmed().isEmpty()) return;
    Remark remark;
    remark.kind = kind;
    remark.subject = subject;
    remark.field = field;
    remark.words = words.toStdString();
    parts.attempt([&] {
        parts.approvals().remark(remark);
        parts.tell(QString("The remark on the %1 %2 stands in Attention.").arg(q(kind), name));
    });
}

}  // namespace optrel
