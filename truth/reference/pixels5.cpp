// How many pixels an inch has to Qt 5, and how many of the screen's each of those is.
#include <QApplication>
#include <QScreen>
#include <QWidget>
#include <cstdio>

int main(int argc, char **argv) {
	QApplication app(argc, argv);
	QWidget window;
	printf("%g %g\n", app.primaryScreen()->logicalDotsPerInchY(), window.devicePixelRatioF());
	return 0;
}
