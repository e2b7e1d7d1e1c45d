// A chart frame with its measured corners and the residuals of the solve as arrows, exaggerated, with a scale.
#pragma once

#include <QImage>
#include <QWidget>
#include <vector>

namespace optrel {

struct CornerMark {
    QPointF place;     ///< px of the frame
    QPointF residual;  ///< px
    bool rejected = false;
    bool solved = false;
};

class FrameView : public QWidget {
    Q_OBJECT
public:
    explicit FrameView(QWidget* parent = nullptr);
    void set_frame(const QImage& picture, QSizeF frame_size);
    void set_corners(std::vector<CornerMark> corners);
    void clear(const QString& why);
    int corner_count() const { return static_cast<int>(corners_.size()); }

protected:
    void paintEvent(QPaintEvent*) override;

private:
    QImage picture_;
    QSizeF size_;
    std::vector<CornerMark> corners_;
    QString why_empty_;
};

}  // namespace optrel
