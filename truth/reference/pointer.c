/* Prints the pointer theme and size that libXcursor uses on a display. */
#include <X11/Xcursor/Xcursor.h>
#include <stdio.h>

int main(void) {
	Display *d = XOpenDisplay(NULL);
	if (!d)
		return 1;
	char *theme = XcursorGetTheme(d);
	printf("%s\n%d\n", theme ? theme : "", XcursorGetDefaultSize(d));
	return 0;
}
