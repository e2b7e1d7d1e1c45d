// Attention: what needs a person, each with what settles it.
#pragma once

#include <functional>

#include "widgets/place.h"
#include "widgets/table.h"

namespace optrel {

class AttentionPlace : public PlaceWidget {
    Q_OBJECT
public:
    explicit AttentionPlace(Session& session);

private:
    struct Item {
        QString what, detail, action;
        int count;
        bool serious;
        std::function<void()> settle;
    };
    void refresh();

    std::vector<Item> items_;
    Table* list_;
    QPushButton* settle_;
    QLabel* calm_;
};

}  // namespace optrel
