/* How many pixels an inch has to GTK 3, and how many of the screen's each of those is. */
#include <gtk/gtk.h>
#include <stdio.h>

int main(int argc, char **argv) {
	gtk_init(&argc, &argv);
	GtkWidget *w = gtk_window_new(GTK_WINDOW_TOPLEVEL);
	printf("%g %d\n", pango_cairo_context_get_resolution(gtk_widget_get_pango_context(w)), gtk_widget_get_scale_factor(w));
	return 0;
}
