// Prints which style Qt 5 draws controls with.
#include <QApplication>
#include <QStyle>
#include <cstdio>

int main(int argc, char **argv) {
	QApplication app(argc, argv);
	printf("%s\n", qPrintable(app.style()->objectName()));
	return 0;
}
