// The unfolded controls of each station. Each reads the desk and asks it for
// changes; none knows another.
#pragma once

#include "base/file.h"
#include "desk/hand_off.h"
#include "trail/rows.h"

class QPushButton;

namespace yokai {

class Shelf;

class ArtworkPanel : public RowPanel {
    Q_OBJECT
public:
    ArtworkPanel(Desk& desk, QWidget* parent);

protected:
    void refreshRest() override;

private:
    void makeSize();
    void makeTurns();
    void makeTilt();
    void refreshUnits(const ArtworkSpec& artwork);
    void makeCrop();
    void makeRecipe();
    void refreshRecipes();
    void putRecipe(bool onAll);
    Shelf* recipes_ = nullptr;
    QCheckBox *handStays_ = nullptr, *onNew_ = nullptr;
    QPushButton* onAll_ = nullptr;
    NumberField* margin_ = nullptr; // how much is left when cropping to what is kept: not of the job
    NumberField* length_ = nullptr; // of what was measured
    NumberField *across_ = nullptr, *down_ = nullptr; // the sides of a known rectangle
    QCheckBox* lies_ = nullptr;                       // which is the sheet
    ChoiceBox* units_ = nullptr;                      // of a drawing that says no size
    bool tilts_ = false;                              // its corners were in hand when last looked
    IconButton *tilt_ = nullptr, *guide_ = nullptr, *measure_ = nullptr, *frame_ = nullptr, *whole_ = nullptr;
    QLabel* note_ = nullptr;
};

class LayerRows;

class KeepPanel : public RowPanel {
    Q_OBJECT
public:
    KeepPanel(Desk& desk, QWidget* parent);

protected:
    void refreshRest() override;

private:
    void makeLayers();
    void makeLayer();
    void makeSplit();
    void makeRule();
    void makeParts();
    void makeHand();
    void makeInside();
    bool layered() const; // made of colours, a layer each
    const KeepSpec* keep() const;
    KeepRule rule() const; // as it is used: never Auto once something is derived
    Swatches* swatches_ = nullptr;
    LayerRows* layers_ = nullptr;
    Segmented *madeOf_ = nullptr, *where_ = nullptr, *tip_ = nullptr;
    IconButton* lift_ = nullptr;
    NumberField *brush_ = nullptr, *likeness_ = nullptr;
    IconButton *everywhere_ = nullptr, *unmark_ = nullptr;
    QLabel* note_ = nullptr;
};

// The cut lines of the piece: a row each, then the settings of the one worked on.
class LineRows;

class CutLinesPanel : public RowPanel {
    Q_OBJECT
public:
    CutLinesPanel(Desk& desk, QWidget* parent);

protected:
    void refreshRest() override;

private:
    void makeLine();
    void makeRest();
    void openDrawing();
    void refreshUnits();
    LineRows* rows_;
    ChoiceBox *operation_ = nullptr, *units_ = nullptr;
    IconButton *copy_, *put_, *remove_;
};

class TouchUpPanel : public RowPanel {
    Q_OBJECT
public:
    TouchUpPanel(Desk& desk, QWidget* parent);

protected:
    void refreshRest() override;

private:
    void makeTools();
    void makeSettings();
    void makeBridges();
    void makeLimits();
    // How what is in hand is set: no part of the job.
    using When = std::function<bool(const Hand&)>;
    NumberField* handField(const char* id, const QString& label, const QString& tip, Length Hand::*member, When when);
    void handList(const char* id, const QString& label, const QStringList& choices, std::function<int(const Hand&)> get, std::function<void(Hand&, int)> set, When when);
    void setHand(const std::function<void(Hand&)>& change);
    std::vector<std::function<void()>> refreshes_;
    IconButton* roundAll_ = nullptr;
    std::vector<IconButton*> forNodes_; // that mean something while nodes are selected
    NumberField *leg_ = nullptr, *angle_ = nullptr;
    QLabel* note_ = nullptr;
};

class BleedPanel : public RowPanel {
    Q_OBJECT
public:
    BleedPanel(Desk& desk, QWidget* parent);

protected:
    void refreshRest() override;

private:
    void makeEngraving();
    void makeCutOff();
    NumberField *offBy_ = nullptr, *offTowards_ = nullptr;
    QLabel* figures_;
};

class SheetPanel : public RowPanel {
    Q_OBJECT
public:
    SheetPanel(Desk& desk, QWidget* parent);

protected:
    void refreshRest() override;

private:
    void makeMedia();
    void makeLayout();
    void makeHand();
    void makePlace();
    void makeMargins();
    void makeMarks();
    void makeCuts();
    // Those of the maker's own, named and kept beside the jobs.
    template <class T> void keepShelf(const char* id, const QString& what, T SheetSpec::*member);
    IconButton* press(const char* icon, const QString& name, const QString& tip, std::size_t atLeast, std::function<void()> run);
    // Of the copies that are selected, or the last picked: no rows, as what they set may not be in the job yet.
    NumberField* placeField(const char* id, const QString& label, const QString& tip, NumberField::Meaning meaning, std::function<double(const Placement&)> get,
                            std::function<void(Placing&, const NumberField&)> set);
    std::vector<std::pair<IconButton*, std::size_t>> presses_; // and how many copies each needs
    std::vector<std::function<void(const Placement*)>> places_;
    ChoiceBox* alignTo_ = nullptr;
    NumberField *more_ = nullptr, *apart_ = nullptr;
    QLabel* note_ = nullptr;
};

class HandOffPanel : public RowPanel {
    Q_OBJECT
public:
    HandOffPanel(Desk& desk, QWidget* parent);
    void writeFiles();

protected:
    void refreshRest() override;

private:
    TextField* setting(const char* id, const QString& label, const QString& tip, const QString& value, std::function<void(const QString&)> put);
    QWidget* withButton(QWidget* field, const char* id, const QString& what, std::function<void()> press);
    void makeTicks();
    void makeWhere();
    void makeFiles();
    void makePrinter();
    void makeProof();
    void makeNames();
    void makeKept();
    std::vector<handoff::File> wanted() const;
    std::vector<QCheckBox*> ticks_; // one a deliverable
    TextField *folder_, *names_, *maker_, *logo_;
    QString proposed_; // the folder, as long as none is chosen
    void propose();
    QPushButton *write_, *print_;
    QLabel* note_ = nullptr;
    ChoiceBox* printers_ = nullptr;
    QLabel *printersLabel_ = nullptr, *testNote_ = nullptr;
};

class CutPanel : public RowPanel {
    Q_OBJECT
public:
    CutPanel(Desk& desk, QWidget* parent);
    void run();

protected:
    void refreshRest() override;

private:
    bool plots() const { return desk_.job().cut.plan.machine && desk_.job().cut.plan.machine->dialect == Dialect::Hpgl; }
    void makeMachine();
    void useMachine(const QString& name);
    void useMaterial(const QString& name);
    void readShelf();
    void refreshMachines();
    void makeOperation();
    void makeMachineFold();
    void makeMaterialFold();
    void makePatch();
    template <class T>
    void keepOwn(const char* what, const QStringList& titles, const QString& filter, std::optional<T>& (*in)(Job&), T (*open)(const std::filesystem::path&), Bytes (*write)(const T&),
                 void (*keep)(const std::filesystem::path&, const T&), void (*drop)(const std::filesystem::path&, const std::string&));
    void makeLayer();
    void makeLink();
    void makeFit();
    void makeByHand();
    void makePresses();
    void makeStandIn();
    void openPicture();
    void refreshMachine();
    QPushButton* press(const char* id, const QString& text, const QString& tip, std::function<void()> run);
    QWidget* pair(QWidget* left, QWidget* right); // side by side over the whole row
    QStringList machineNames_, materialNames_;
    ChoiceBox* layer_ = nullptr; // of colour layers, the one that is cut
    ChoiceBox *machines_ = nullptr, *materials_ = nullptr, *port_ = nullptr;
    QLabel* operationNote_ = nullptr;
    QPushButton *removeOperation_ = nullptr, *patch_ = nullptr;
    std::vector<std::function<void()>> patchFields_;
    Segmented* steps_ = nullptr;
    QPushButton *run_ = nullptr, *find_ = nullptr, *round_ = nullptr, *faint_ = nullptr, *picture_ = nullptr, *corners_ = nullptr, *take_ = nullptr, *near_ = nullptr, *goOn_ = nullptr,
                *drop_ = nullptr;
    QLabel* note_ = nullptr;
};

RowPanel* makePanel(Station station, Desk& desk, QWidget* parent);

} // namespace yokai
