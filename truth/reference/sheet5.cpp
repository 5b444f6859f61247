// Paints controls of Qt 5 as its style does, without words, and prints the palette.
// Standard input: lines of what, states, and a box: "button on,over 10 10 80 25".
#include <QApplication>
#include <QImage>
#include <QPainter>
#include <QStyle>
#include <QStyleFactory>
#include <QStyleOption>
#include <QSlider>
#include <QTabBar>
#include <QAbstractSpinBox>
#include <QFontMetrics>
#include <cstdio>
#include <iostream>
#include <sstream>

static void size(const char *what, QStyle::ContentsType type, const QStyleOption &o, QSize contents) {
	QSize s = QApplication::style()->sizeFromContents(type, &o, contents, nullptr);
	printf("size %s %d %d\n", what, s.width(), s.height());
}

int main(int argc, char **argv) {
	QApplication app(argc, argv);
	QStyle *style = QApplication::style();
	int width = atoi(argv[1]), height = atoi(argv[2]);
	QPalette palette = QApplication::palette();
	const struct { const char *name; QPalette::ColorRole role; } roles[] = {
		{"window", QPalette::Window}, {"windowText", QPalette::WindowText}, {"base", QPalette::Base}, {"text", QPalette::Text},
		{"button", QPalette::Button}, {"buttonText", QPalette::ButtonText}, {"highlight", QPalette::Highlight}, {"highlightedText", QPalette::HighlightedText},
	};
	for (auto &r : roles)
		printf("colour %s %s %s\n", r.name, qPrintable(palette.color(QPalette::Active, r.role).name()), qPrintable(palette.color(QPalette::Disabled, r.role).name()));
	{
		QStyleOptionButton b;
		b.text = "x";
		size("button", QStyle::CT_PushButton, b, QSize(90, 17));
		size("check", QStyle::CT_CheckBox, b, QSize(90, 17));
		QStyleOptionFrame f;
		f.lineWidth = 1;
		size("entry", QStyle::CT_LineEdit, f, QSize(90, 17));
		QStyleOptionComboBox c;
		size("combo", QStyle::CT_ComboBox, c, QSize(90, 17));
		QStyleOptionMenuItem m;
		size("menubar", QStyle::CT_MenuBarItem, m, QSize(90, 17));
	}

	QImage image(width, height, QImage::Format_ARGB32_Premultiplied);
	image.fill(palette.color(QPalette::Window));
	QPainter painter(&image);
	std::string line;
	while (std::getline(std::cin, line)) {
		std::istringstream in(line);
		std::string what, states;
		int x, y, w, h;
		if (!(in >> what >> states >> x >> y >> w >> h))
			return 2;
		auto is = [&](const char *s) { return ("," + states + ",").find("," + std::string(s) + ",") != std::string::npos; };
		QStyle::State state = is("off") ? QStyle::State_None : QStyle::State_Enabled | QStyle::State_Active;
		if (is("on")) state |= QStyle::State_On; else state |= QStyle::State_Off;
		if (is("over")) state |= QStyle::State_MouseOver;
		if (is("down")) state |= QStyle::State_Sunken;
		if (is("focus")) state |= QStyle::State_HasFocus | QStyle::State_KeyboardFocusChange;
		if (is("chosen")) state |= QStyle::State_Selected;
		palette.setCurrentColorGroup(is("off") ? QPalette::Disabled : QPalette::Active);
		auto set = [&](QStyleOption &o) {
			o.rect = QRect(0, 0, w, h);
			o.palette = palette;
			o.state = state;
			o.direction = Qt::LeftToRight;
			o.fontMetrics = QFontMetrics(QApplication::font());
		};
		painter.save();
		painter.translate(x, y);
		painter.setClipRect(0, 0, w, h);
		if (what == "button" || what == "check" || what == "radio") {
			QStyleOptionButton o;
			set(o);
			if (is("default")) o.features = QStyleOptionButton::DefaultButton;
			style->drawPrimitive(what == "button" ? QStyle::PE_PanelButtonCommand : what == "check" ? QStyle::PE_IndicatorCheckBox : QStyle::PE_IndicatorRadioButton, &o, &painter);
		} else if (what == "entry") {
			QStyleOptionFrame o;
			set(o);
			o.lineWidth = 1;
			o.state |= QStyle::State_Sunken;
			style->drawPrimitive(QStyle::PE_PanelLineEdit, &o, &painter);
		} else if (what == "frame") {
			QStyleOptionFrame o;
			set(o);
			painter.fillRect(o.rect, palette.base());
			style->drawPrimitive(QStyle::PE_Frame, &o, &painter);
		} else if (what == "combo") {
			QStyleOptionComboBox o;
			set(o);
			o.frame = true;
			style->drawComplexControl(QStyle::CC_ComboBox, &o, &painter);
		} else if (what == "spin") {
			QStyleOptionSpinBox o;
			set(o);
			o.frame = true;
			o.stepEnabled = QAbstractSpinBox::StepUpEnabled | QAbstractSpinBox::StepDownEnabled;
			o.activeSubControls = QStyle::SC_None;
			style->drawComplexControl(QStyle::CC_SpinBox, &o, &painter);
		} else if (what == "slider" || what == "scroll") {
			QStyleOptionSlider o;
			set(o);
			o.orientation = what == "slider" ? Qt::Horizontal : Qt::Vertical;
			if (what == "slider") o.state |= QStyle::State_Horizontal;
			o.minimum = 0;
			o.maximum = 100;
			o.pageStep = 50;
			o.singleStep = 1;
			o.sliderPosition = o.sliderValue = 40;
			o.subControls = what == "slider" ? QStyle::SC_SliderGroove | QStyle::SC_SliderHandle : QStyle::SC_All;
			o.activeSubControls = QStyle::SC_None;
			style->drawComplexControl(what == "slider" ? QStyle::CC_Slider : QStyle::CC_ScrollBar, &o, &painter);
		} else if (what == "progress") {
			QStyleOptionProgressBar o;
			set(o);
			o.minimum = 0;
			o.maximum = 100;
			o.progress = 60;
			o.orientation = Qt::Horizontal;
			o.state |= QStyle::State_Horizontal;
			style->drawControl(QStyle::CE_ProgressBarGroove, &o, &painter);
			o.rect = style->subElementRect(QStyle::SE_ProgressBarContents, &o, nullptr);
			style->drawControl(QStyle::CE_ProgressBarContents, &o, &painter);
		} else if (what == "tab") {
			QStyleOptionTab o;
			set(o);
			o.shape = QTabBar::RoundedNorth;
			o.position = QStyleOptionTab::Middle;
			o.features = QStyleOptionTab::HasFrame;
			style->drawControl(QStyle::CE_TabBarTabShape, &o, &painter);
		} else if (what == "page") {
			QStyleOptionTabWidgetFrame o;
			set(o);
			o.shape = QTabBar::RoundedNorth;
			style->drawPrimitive(QStyle::PE_FrameTabWidget, &o, &painter);
		} else if (what == "header") {
			QStyleOptionHeader o;
			set(o);
			o.orientation = Qt::Horizontal;
			o.position = QStyleOptionHeader::Middle;
			style->drawControl(QStyle::CE_HeaderSection, &o, &painter);
		} else if (what == "menubar") {
			QStyleOptionMenuItem o;
			set(o);
			style->drawControl(QStyle::CE_MenuBarItem, &o, &painter);
		} else if (what == "line") {
			QStyleOptionViewItem o;
			set(o);
			o.showDecorationSelected = true;
			style->drawPrimitive(QStyle::PE_PanelItemViewItem, &o, &painter);
		} else {
			return 3;
		}
		painter.restore();
	}
	painter.end();
	return image.save(argv[3]) ? 0 : 1;
}
