// A program of Qt 5 that stays open.
#include <QApplication>
#include <QIcon>
#include <QWidget>
#include <cstdio>

int main(int argc, char **argv) {
	QApplication app(argc, argv);
	QWidget window;
	window.show();
	printf("icons=%s\nopen\n", QIcon::themeName().toUtf8().constData());
	fflush(stdout);
	return app.exec();
}
