// Lenses: published profiles, their figures and curves.
#pragma once

#include "widgets/place.h"
#include "widgets/table.h"

namespace optrel {

class ProfileCurves;

class LensesPlace : public PlaceWidget {
    Q_OBJECT
public:
    explicit LensesPlace(Session& session);
    void show_something() override;

private:
    void refresh();
    void show_profile(int row);

    std::vector<Profile> profiles_;
    Table *list_, *figures_;
    ProfileCurves* curves_;
    QLabel* empty_;
    QPushButton* export_;
};

}  // namespace optrel
