/* Prints the pointer over a display's background as XFixes has it, the one that libXcursor
   loads of the theme and size that it uses, each as name, size, hot spot and a sum of its
   pixels; and the window that provides XSETTINGS. */
#include <X11/Xcursor/Xcursor.h>
#include <X11/extensions/Xfixes.h>
#include <stdio.h>
#include <unistd.h>

static unsigned long sum;
static void add(unsigned long pixel) { sum = (sum * 31 + (pixel & 0xffffffff)) & 0xffffffff; }

int main(int argc, char **argv) {
	Display *d = XOpenDisplay(NULL);
	if (!d)
		return 1;
	/* A moving pointer has no picture before it moved. */
	XWarpPointer(d, None, DefaultRootWindow(d), 0, 0, 0, 0, 300, 200);
	XSync(d, False);
	usleep(20000);
	XWarpPointer(d, None, DefaultRootWindow(d), 0, 0, 0, 0, 20, 20);
	XSync(d, False);
	XFixesCursorImage *seen = XFixesGetCursorImage(d);
	for (int i = 0; i < seen->width * seen->height; i++)
		add(seen->pixels[i]);
	printf("%s %d %d %d %d %lx\n", seen->name, seen->width, seen->height, seen->xhot, seen->yhot, sum);
	const char *theme = argc > 1 ? argv[1] : XcursorGetTheme(d);
	XcursorImages *all = XcursorLibraryLoadImages("left_ptr", theme, XcursorGetDefaultSize(d));
	for (int n = 0; all && n < all->nimage; n++) {
		XcursorImage *im = all->images[n];
		sum = 0;
		for (unsigned i = 0; i < im->width * im->height; i++)
			add(im->pixels[i]);
		printf("%s %d %d %d %d %lx\n", "left_ptr", im->width, im->height, im->xhot, im->yhot, sum);
	}
	printf("owner 0x%lx\n", XGetSelectionOwner(d, XInternAtom(d, "_XSETTINGS_S0", False)));
	return 0;
}
