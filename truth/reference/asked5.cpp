// Prints for each shape of Qt::CursorShape the files that Qt 5 opens for it, in their order; with "work"
// what of each screen is left to windows: x, y, width and height, a line each.
#include <QApplication>
#include <QCursor>
#include <QMetaEnum>
#include <QScreen>
#include <QWidget>
#include <cstdio>
#include <cstring>
#include <dlfcn.h>

static bool telling;

static FILE *opened(const char *name, const char *path, const char *mode) {
	const char *at = strstr(path, "/cursors/");
	if (telling && at)
		printf(" %s", at + 9);
	return ((FILE * (*)(const char *, const char *)) dlsym(RTLD_NEXT, name))(path, mode);
}

extern "C" FILE *fopen(const char *path, const char *mode) { return opened("fopen", path, mode); }
extern "C" FILE *fopen64(const char *path, const char *mode) { return opened("fopen64", path, mode); }

int main(int argc, char **argv) {
	QApplication app(argc, argv);
	if (argc > 1) {
		for (QScreen *s : app.screens()) {
			QRect r = s->availableGeometry();
			printf("%d %d %d %d\n", r.x(), r.y(), r.width(), r.height());
		}
		return 0;
	}
	QWidget window;
	window.setCursor(Qt::BlankCursor); // so that the arrow is set as others are
	window.show();
	app.processEvents();
	auto shapes = QMetaEnum::fromType<Qt::CursorShape>();
	for (int i = 0; i < shapes.keyCount(); i++) {
		if (shapes.value(i) > Qt::LastCursor || !strcmp(shapes.key(i), "LastCursor"))
			continue;
		printf("%s", shapes.key(i));
		telling = true;
		window.setCursor(QCursor((Qt::CursorShape)shapes.value(i)));
		app.processEvents();
		telling = false;
		printf("\n");
	}
	return 0;
}
