/* Prints the colour of a window's ground under the theme that GTK 3 ends up
 * with, by its settings and the environment. */
#include <gtk/gtk.h>
#include <stdio.h>

int main(int argc, char **argv) {
	gtk_init(&argc, &argv);
	GtkWidget *window = gtk_window_new(GTK_WINDOW_TOPLEVEL);
	GdkRGBA *c = NULL;
	gtk_style_context_get(gtk_widget_get_style_context(window), GTK_STATE_FLAG_NORMAL, "background-color", &c, NULL);
	printf("%d %d %d\n", (int)(c->red * 255 + 0.5), (int)(c->green * 255 + 0.5), (int)(c->blue * 255 + 0.5));
	return 0;
}
