/* Prints what GTK refuses of style sheets and of all that they import, a line
 * each: "refused", the file or the address in a resource bundle, the line and
 * what GTK says. Before each sheet stands a line "sheet" with its name. The
 * bundle beside a sheet, gtk.gresource, is registered, as for a theme. */
#include <gtk/gtk.h>
#include <stdio.h>
#include <string.h>

static void refused(GtkCssProvider *provider, GtkCssSection *section, GError *error, gpointer data) {
#if GTK_MAJOR_VERSION == 3
	if (g_error_matches(error, GTK_CSS_PROVIDER_ERROR, GTK_CSS_PROVIDER_ERROR_DEPRECATED))
		return;
	guint line = gtk_css_section_get_end_line(section);
#else
	if (error->domain == GTK_CSS_PARSER_WARNING)
		return;
	guint line = gtk_css_section_get_end_location(section)->lines;
#endif
	char *uri = gtk_css_section_get_file(section) ? g_file_get_uri(gtk_css_section_get_file(section)) : g_strdup("");
	for (char *c = error->message; *c; c++)
		if (*c == '\n')
			*c = ' ';
	printf("refused %s %u %s\n", uri, line + 1, error->message);
	g_free(uri);
}

int main(int argc, char **argv) {
	for (int i = 1; i < argc; i++) {
		printf("sheet %s\n", argv[i]);
		char *dir = g_path_get_dirname(argv[i]), *bundle = g_build_filename(dir, "gtk.gresource", NULL);
		GResource *resource = g_resource_load(bundle, NULL);
		if (resource)
			g_resources_register(resource);
		GtkCssProvider *provider = gtk_css_provider_new();
		g_signal_connect(provider, "parsing-error", G_CALLBACK(refused), NULL);
#if GTK_MAJOR_VERSION == 3
		gtk_css_provider_load_from_path(provider, argv[i], NULL);
#else
		gtk_css_provider_load_from_path(provider, argv[i]);
#endif
		g_object_unref(provider);
		if (resource)
			g_resources_unregister(resource);
	}
	return 0;
}
