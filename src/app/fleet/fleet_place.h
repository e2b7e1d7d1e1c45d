// Fleet: bodies and lenses as the frames name them, with the studio's names and asset tags.
#pragma once

#include "widgets/place.h"
#include "widgets/table.h"

namespace optrel {

class FleetPlace : public PlaceWidget {
    Q_OBJECT
public:
    explicit FleetPlace(Session& session);
    Table& bodies() { return *bodies_; }

private:
    void refresh();
    void edit_body(int row, int column, const QString& text);
    void edit_lens(int row, int column, const QString& text);

    Table *bodies_, *lenses_;
    QLabel* empty_;
};

}  // namespace optrel
