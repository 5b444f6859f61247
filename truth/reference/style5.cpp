// Prints which style Qt 5 draws controls with, and its palette.
#include <QApplication>
#include <QStyle>
#include <cstdio>

int main(int argc, char **argv) {
	QApplication app(argc, argv);
	printf("%s", qPrintable(app.style()->objectName()));
	for (auto role : {QPalette::Window, QPalette::WindowText, QPalette::Base, QPalette::Text, QPalette::Button, QPalette::ButtonText, QPalette::Highlight, QPalette::HighlightedText})
		printf(" %s", qPrintable(app.palette().color(QPalette::Active, role).name()));
	printf("\n");
	return 0;
}
