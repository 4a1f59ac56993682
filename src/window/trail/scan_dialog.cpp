#include "trail/scan_dialog.h"

#include "desk/desk.h"
#include "desk/files.h"
#include "theme/controls.h"
#include "theme/number_field.h"
#include "theme/theme.h"
#include "words.h"

#include <QGridLayout>
#include <QLabel>
#include <QMouseEvent>
#include <QPainter>
#include <QPushButton>
#include <QSettings>

#include <algorithm>
#include <cstring>

namespace yokai {

// mm on the glass, as large as there is room.
class ScanDialog::Glass : public QWidget {
public:
    explicit Glass(ScanDialog& dialog) : QWidget(&dialog), dialog_(dialog)
    {
        setObjectName("scan-glass");
        setAccessibleName(tr("The scanner's glass"));
        setToolTip(tr("Draw the area to scan"));
        setMinimumSize(300, 400);
        setCursor(Qt::CrossCursor);
    }
    void setPicture(const QImage& picture)
    {
        picture_ = picture;
        update();
    }

protected:
    void mousePressEvent(QMouseEvent* e) override
    {
        if (dialog_.facts_ && e->button() == Qt::LeftButton)
            from_ = onGlass(e->position());
    }
    void mouseMoveEvent(QMouseEvent* e) override { draw(e->position()); }
    void mouseReleaseEvent(QMouseEvent* e) override
    {
        draw(e->position());
        from_.reset();
    }
    void paintEvent(QPaintEvent*) override
    {
        QPainter painter(this);
        const auto& c = theme::colours();
        painter.setPen(QPen(c.line, 1));
        painter.setBrush(c.field);
        painter.drawRect(sheet().adjusted(-0.5, -0.5, 0.5, 0.5));
        if (!picture_.isNull()) {
            painter.setRenderHint(QPainter::SmoothPixmapTransform);
            painter.drawImage(sheet(), picture_);
        }
        if (!dialog_.facts_ || dialog_.area_.empty())
            return;
        const Rect& a = dialog_.area_;
        painter.setBrush(Qt::NoBrush);
        for (const QPen& pen : {QPen(QColor(255, 255, 255, 200), 4), QPen(c.accent, 1.8)}) {
            painter.setPen(pen);
            painter.drawRect(QRectF(sheet().topLeft() + QPointF(a.x0, a.y0) * scale(), QSizeF(a.width(), a.height()) * scale()));
        }
    }

private:
    QSizeF size_() const { return dialog_.facts_ ? QSizeF(dialog_.facts_->width, dialog_.facts_->height) : QSizeF(210, 297); }
    double scale() const { return std::min((width() - 4) / size_().width(), (height() - 4) / size_().height()); }
    QRectF sheet() const
    {
        const QSizeF s = size_() * scale();
        return {QPointF((width() - s.width()) / 2, 2), s};
    }
    Point onGlass(QPointF at) const
    {
        const QPointF mm = (at - sheet().topLeft()) / scale();
        return {std::clamp(mm.x(), 0.0, size_().width()), std::clamp(mm.y(), 0.0, size_().height())};
    }
    void draw(QPointF to)
    {
        if (!from_)
            return;
        Rect area = Rect::nothing();
        area.add(*from_);
        area.add(onGlass(to));
        constexpr double least = 2; // mm: less was no drag
        if (area.width() >= least && area.height() >= least)
            dialog_.setArea(area);
    }
    ScanDialog& dialog_;
    QImage picture_;
    std::optional<Point> from_;
};

ScanDialog::ScanDialog(Desk& desk, Files& files, QWidget* over) : QDialog(over), desk_(desk), files_(files)
{
    setObjectName("scan");
    setWindowTitle(tr("Scan"));
    // What the scanner is at is stopped, and not waited for.
    connect(this, &QDialog::finished, this, [this] {
        background_.stop();
        const auto go = [this] {
            if (!background_.busy())
                deleteLater();
        };
        connect(&background_, &Background::changed, this, go);
        go();
    });
    glass_ = new Glass(*this);
    auto* whole = new QHBoxLayout(this);
    whole->setContentsMargins(16, 16, 16, 16);
    whole->setSpacing(16);
    whole->addWidget(makeRows());
    whole->addWidget(glass_, 1);
    connect(&background_, &Background::changed, this, &ScanDialog::refresh);
    connect(&background_, &Background::said, this, [this](const QString& text, int) {
        if (!text.isEmpty())
            says_->setText(text);
    });
    connect(&background_, &Background::progressed, this, [this](double fraction, const QString&) {
        if (fraction > 0)
            says_->setText(tr("Scanning, %1 %").arg(int(fraction * 100)));
    });
    refresh();
    look();
}

// Over 60 lines: its rows, one after another.
QWidget* ScanDialog::makeRows()
{
    auto* rows = new QWidget(this);
    rows->setFixedWidth(theme::px(270));
    auto* grid = new QGridLayout(rows);
    grid->setContentsMargins(0, 0, 0, 0);
    grid->setVerticalSpacing(8);
    grid->setColumnStretch(1, 1);
    int row = 0;
    const auto add = [&](const QString& name, const char* id, QWidget* control) {
        control->setObjectName(QLatin1String(id));
        control->setAccessibleName(name);
        grid->addWidget(new QLabel(name, rows), row, 0);
        grid->addWidget(control, row++, 1, qobject_cast<NumberField*>(control) ? Qt::AlignRight : Qt::Alignment());
    };
    scanner_ = new ChoiceBox(rows);
    scanner_->setMinimumContentsLength(12);
    scanner_->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
    add(tr("Scanner"), "scan-scanner", scanner_);
    colour_ = new Segmented({tr("Colour"), tr("Grey")}, rows);
    add(tr("As"), "scan-colour", colour_);
    ppi_ = new ChoiceBox(rows);
    add(tr("Resolution"), "scan-ppi", ppi_);
    const auto length = [&](const QString& name, const char* id) {
        auto* field = new NumberField(NumberField::Meaning::Length, rows);
        field->setRange(0, 2'000);
        field->setStep(1);
        field->setUnit(desk_.unit());
        add(name, id, field);
        connect(field, &NumberField::edited, this, &ScanDialog::areaTyped);
        return field;
    };
    left_ = length(tr("From the left"), "scan-left");
    top_ = length(tr("From the top"), "scan-top");
    width_ = length(tr("Width"), "scan-width");
    height_ = length(tr("Height"), "scan-height");
    const auto press = [&](const QString& text, const char* id, const QString& tip, auto run) {
        auto* button = new QPushButton(text, rows);
        button->setObjectName(QLatin1String(id));
        button->setToolTip(tip);
        button->setAutoDefault(false);
        connect(button, &QPushButton::clicked, this, run);
        return button;
    };
    all_ = press(tr("All of the glass"), "scan-all", tr("The area is the whole glass again"), [this] {
        if (facts_)
            setArea({0, 0, facts_->width, facts_->height});
    });
    preview_ = press(tr("Preview"), "scan-preview", tr("A quick, coarse scan of the whole glass, to draw the area on"), [this] { preview(); });
    scan_ = press(tr("Scan"), "scan-scan", tr("Scans the area; it becomes a piece at its true size"), [this] { scan(); });
    scan_->setProperty("kind", "primary");
    says_ = new QLabel(rows);
    says_->setObjectName("scan-says");
    says_->setWordWrap(true);
    grid->addWidget(all_, row++, 0, 1, 2);
    grid->addWidget(says_, row++, 0, 1, 2);
    grid->setRowStretch(row++, 1);
    auto* ends = new QHBoxLayout;
    ends->setSpacing(8);
    ends->addWidget(press(tr("Close"), "scan-close", {}, [this] { reject(); }));
    ends->addStretch(1);
    ends->addWidget(preview_);
    ends->addWidget(scan_);
    grid->addLayout(ends, row, 0, 1, 2);
    connect(scanner_, &ChoiceBox::activated, this, &ScanDialog::choose);
    return rows;
}

void ScanDialog::look()
{
    auto found = std::make_shared<std::vector<ScannerFound>>();
    says_->setText(tr("Looking for scanners\u2026"));
    background_.start(
        tr("Looking for scanners"),
        [found](const Work& work) -> QString {
            *found = scanners(work);
            return {};
        },
        [this, found] {
            found_ = *found;
            says_->setText(found_.empty() ? tr("No scanner is found. Connect one, switch it on, and open this again.") : QString());
            const QString last = QSettings().value("scan/scanner").toString();
            for (const ScannerFound& s : found_) {
                scanner_->addItem(yokai::text(s.title), yokai::text(s.name));
                scanner_->setItemData(scanner_->count() - 1, yokai::text(s.name), Qt::ToolTipRole);
                if (yokai::text(s.name) == last)
                    scanner_->setCurrentIndex(scanner_->count() - 1);
            }
            if (!found_.empty())
                choose();
        });
}

void ScanDialog::choose()
{
    auto facts = std::make_shared<ScannerFacts>();
    facts_.reset();
    glass_->setPicture({});
    background_.start(
        tr("Asking the scanner"),
        [facts, name = scanner_->currentData().toString().toStdString()](const Work& work) -> QString {
            *facts = factsOf(name, work);
            return {};
        },
        [this, facts] {
            says_->clear();
            facts_ = *facts;
            ppi_->clear();
            for (const double ppi : facts->ppis.empty() ? std::vector<double>{75, 100, 150, 200, 300, 400, 600, 1200, 2400} : facts->ppis)
                if (!facts->ppis.empty() || (ppi >= facts->least && ppi <= facts->most))
                    ppi_->addItem(tr("%1 ppi").arg(yokai::number(ppi, 0)), ppi);
            const double last = QSettings().value("scan/ppi", 300).toDouble();
            const int at = ppi_->findData(last);
            ppi_->setCurrentIndex(at < 0 ? ppi_->count() - 1 : at);
            colour_->setCurrent(facts->colour && QSettings().value("scan/colour", true).toBool() ? 0 : 1);
            setArea({0, 0, facts->width, facts->height});
            refresh();
        });
}

void ScanDialog::preview()
{
    auto image = std::make_shared<QImage>();
    constexpr double coarse = 50; // ppi
    const ScanOrder order{scanner_->currentData().toString().toStdString(), coarse, {}, colour_->current() == 0};
    background_.start(
        tr("Scanning"),
        [image, order](const Work& work) -> QString {
            const SharedRgba pixels = decodePicture(scanned(order, work), work);
            *image = QImage(reinterpret_cast<const uchar*>(pixels->all().data()), pixels->width(), pixels->height(), pixels->width() * 4, QImage::Format_RGBA8888).copy();
            return {};
        },
        [this, image] {
            says_->setText(tr("Draw the area on it."));
            glass_->setPicture(*image);
        });
}

// In the job's own background: the dialog is gone by then, and the status strip shows how far it is and stops it.
void ScanDialog::scan()
{
    const double ppi = ppi_->currentData().toDouble();
    const bool colour = colour_->current() == 0;
    QSettings().setValue("scan/scanner", scanner_->currentData());
    QSettings().setValue("scan/ppi", ppi);
    QSettings().setValue("scan/colour", colour);
    const bool all = facts_ && area_.width() >= facts_->width && area_.height() >= facts_->height;
    const ScanOrder order{scanner_->currentData().toString().toStdString(), ppi, all ? Rect::nothing() : area_, colour};
    auto picture = std::make_shared<Picture>();
    const bool began = desk_.background().start(
        tr("Scanning"),
        [picture, order](const Work& work) -> QString {
            *picture = scanned(order, work);
            return {};
        },
        [files = &files_, picture] { files->addScan(*picture); });
    if (began)
        accept();
    else
        says_->setText(tr("Other work is under way; scan once it has ended."));
}

void ScanDialog::areaTyped()
{
    if (!facts_)
        return;
    const double x = std::min(left_->length().mm(), facts_->width - 1), y = std::min(top_->length().mm(), facts_->height - 1);
    setArea({x, y, std::min(facts_->width, x + std::max(1.0, width_->length().mm())), std::min(facts_->height, y + std::max(1.0, height_->length().mm()))});
}

void ScanDialog::setArea(const Rect& area)
{
    area_ = area;
    left_->setLength(Length::mm(area.x0));
    top_->setLength(Length::mm(area.y0));
    width_->setLength(Length::mm(area.width()));
    height_->setLength(Length::mm(area.height()));
    glass_->update();
}

void ScanDialog::refresh()
{
    const bool ready = facts_ && !background_.busy(), wasReady = scan_->isEnabled();
    scanner_->setEnabled(!found_.empty() && !background_.busy());
    colour_->setEnabled(ready && facts_->colour && facts_->grey);
    for (QWidget* w : std::initializer_list<QWidget*>{ppi_, left_, top_, width_, height_, all_, preview_, scan_})
        w->setEnabled(ready);
    if (ready && !wasReady)
        scan_->setFocus();
    glass_->update();
}

} // namespace yokai
