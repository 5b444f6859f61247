/* Says of each name of standard input whether libXcursor knows it as one of X's own cursor font. */
#include <X11/Xcursor/Xcursor.h>
#include <stdio.h>
#include <string.h>

int main(void) {
	char name[256];
	while (fgets(name, sizeof name, stdin)) {
		name[strcspn(name, "\n")] = 0;
		printf("%s %d\n", name, XcursorLibraryShape(name));
	}
	return 0;
}
