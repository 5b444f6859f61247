/* A program of GTK 3 or GTK 4 that stays open, and prints a line for each of its
   settings, "name=value", when it starts and each time one changes. */
#include <gtk/gtk.h>
#include <stdio.h>

static const char *names[] = { "gtk-theme-name", "gtk-icon-theme-name", "gtk-cursor-theme-name", "gtk-cursor-theme-size", "gtk-font-name", "gtk-xft-dpi", NULL };

static void say(GObject *settings, GParamSpec *of, gpointer unused) {
	(void)unused;
	GValue v = G_VALUE_INIT;
	g_value_init(&v, of->value_type);
	g_object_get_property(settings, of->name, &v);
	if (G_VALUE_HOLDS_STRING(&v))
		printf("%s=%s\n", of->name, g_value_get_string(&v) ? g_value_get_string(&v) : "");
	else
		printf("%s=%d\n", of->name, g_value_get_int(&v));
	fflush(stdout);
	g_value_unset(&v);
}

int main(int argc, char **argv) {
#if GTK_MAJOR_VERSION >= 4
	(void)argc, (void)argv;
	gtk_init();
	gtk_window_present(GTK_WINDOW(gtk_window_new()));
#else
	gtk_init(&argc, &argv);
	gtk_widget_show(gtk_window_new(GTK_WINDOW_TOPLEVEL));
#endif
	GtkSettings *settings = gtk_settings_get_default();
	for (int i = 0; names[i]; i++) {
		char *signal = g_strdup_printf("notify::%s", names[i]);
		g_signal_connect(settings, signal, G_CALLBACK(say), NULL);
		say(G_OBJECT(settings), g_object_class_find_property(G_OBJECT_GET_CLASS(settings), names[i]), NULL);
		g_free(signal);
	}
	printf("open\n");
	fflush(stdout);
	g_main_loop_run(g_main_loop_new(NULL, FALSE));
	return 0;
}
