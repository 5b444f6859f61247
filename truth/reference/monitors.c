/* Prints the monitors of a display as GTK 3 knows them: name, x, y, width and height, a line each; with
 * "work" what of each is left to windows. */
#include <gtk/gtk.h>
#include <stdio.h>

int main(int argc, char **argv) {
	gtk_init(&argc, &argv);
	GdkDisplay *display = gdk_display_get_default();
	for (int i = 0; i < gdk_display_get_n_monitors(display); i++) {
		GdkMonitor *m = gdk_display_get_monitor(display, i);
		GdkRectangle r;
		if (argc > 1)
			gdk_monitor_get_workarea(m, &r);
		else
			gdk_monitor_get_geometry(m, &r);
		const char *name = gdk_monitor_get_model(m);
		printf("%s %d %d %d %d\n", name ? name : "?", r.x, r.y, r.width, r.height);
	}
	return 0;
}
