/* Prints the colour of a window's text under the theme that GTK 4 ends up with,
 * by its settings and the environment. */
#include <gtk/gtk.h>
#include <stdio.h>

int main(int argc, char **argv) {
	gtk_init();
	GtkWidget *window = gtk_window_new();
	GdkRGBA c;
	gtk_style_context_get_color(gtk_widget_get_style_context(window), &c);
	printf("%d %d %d\n", (int)(c.red * 255 + 0.5), (int)(c.green * 255 + 0.5), (int)(c.blue * 255 + 0.5));
	return 0;
}
