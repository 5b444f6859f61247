/* Prints what GTK 2 makes of its resource files: a setting a line. */
#include <gtk/gtk.h>
#include <stdio.h>

int main(int argc, char **argv) {
	gtk_init(&argc, &argv);
	const char *texts[] = {"gtk-theme-name", "gtk-icon-theme-name", "gtk-cursor-theme-name", "gtk-font-name"};
	for (int i = 0; i < 4; i++) {
		char *value = NULL;
		g_object_get(gtk_settings_get_default(), texts[i], &value, NULL);
		char *shown = g_strescape(value ? value : "", NULL);
		printf("%s: \"%s\"\n", texts[i], shown);
	}
	int size = 0;
	g_object_get(gtk_settings_get_default(), "gtk-cursor-theme-size", &size, NULL);
	printf("gtk-cursor-theme-size: %d\n", size);
	return 0;
}
