/* How many pixels an inch has to GTK 2. */
#include <gtk/gtk.h>
#include <stdio.h>

int main(int argc, char **argv) {
	gtk_init(&argc, &argv);
	printf("%g 1\n", pango_cairo_context_get_resolution(gtk_widget_get_pango_context(gtk_window_new(GTK_WINDOW_TOPLEVEL))));
	return 0;
}
