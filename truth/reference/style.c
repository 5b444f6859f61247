/* The style that GTK 3 computes for nodes under a style sheet alone: the sheet
 * is the argument, the nodes' paths are lines of the input. */
#include <gtk/gtk.h>
#include <stdio.h>
#include <string.h>

static const struct { const char *name; GtkStateFlags flag; } states[] = {
	{ "hover", GTK_STATE_FLAG_PRELIGHT }, { "active", GTK_STATE_FLAG_ACTIVE }, { "checked", GTK_STATE_FLAG_CHECKED },
	{ "disabled", GTK_STATE_FLAG_INSENSITIVE }, { "focus", GTK_STATE_FLAG_FOCUSED }, { "selected", GTK_STATE_FLAG_SELECTED },
	{ "backdrop", GTK_STATE_FLAG_BACKDROP },
};

static void append(GtkWidgetPath *path, const char *word) {
	char name[64] = "";
	size_t n = strcspn(word, ".:#");
	snprintf(name, sizeof name, "%.*s", (int)n, word);
	gtk_widget_path_append_type(path, GTK_TYPE_WIDGET);
	gtk_widget_path_iter_set_object_name(path, -1, name[0] ? name : NULL);
	GtkStateFlags state = 0;
	for (word += n; *word; word += n) {
		char kind = *word++;
		n = strcspn(word, ".:#");
		snprintf(name, sizeof name, "%.*s", (int)n, word);
		if (kind == '.')
			gtk_widget_path_iter_add_class(path, -1, name);
		if (kind == '#')
			gtk_widget_path_iter_set_name(path, -1, name);
		for (size_t i = 0; kind == ':' && i < G_N_ELEMENTS(states); i++)
			if (!strcmp(states[i].name, name))
				state |= states[i].flag;
	}
	gtk_widget_path_iter_set_state(path, -1, state);
}

static void colour(const char *key, GdkRGBA *c) {
	printf(" %s=%d,%d,%d,%.3f", key, (int)(c->red * 255 + 0.5), (int)(c->green * 255 + 0.5), (int)(c->blue * 255 + 0.5), c->alpha);
}

int main(int argc, char **argv) {
	char line[4096];
	gtk_init(&argc, &argv);
	GtkCssProvider *sheet = gtk_css_provider_new();
	gtk_css_provider_load_from_path(sheet, argv[1], NULL);
	while (fgets(line, sizeof line, stdin)) {
		line[strcspn(line, "\n")] = 0;
		printf("%s", line);
		GtkWidgetPath *path = gtk_widget_path_new();
		GtkStyleContext *context = NULL;
		GtkStateFlags state = 0;
		for (char *word = strtok(line, " "); word; word = strtok(NULL, " ")) {
			append(path, word);
			GtkStyleContext *next = gtk_style_context_new();
			gtk_style_context_set_path(next, path);
			gtk_style_context_set_parent(next, context);
			gtk_style_context_add_provider(next, GTK_STYLE_PROVIDER(sheet), GTK_STYLE_PROVIDER_PRIORITY_APPLICATION);
			state = gtk_widget_path_iter_get_state(path, -1);
			gtk_style_context_set_state(next, state);
			context = next;
		}
		GdkRGBA *fg, *bg, *top;
		gint radius, width;
		GtkBorder padding;
		gtk_style_context_get(context, state, "color", &fg, "background-color", &bg, "border-top-color", &top, "border-radius", &radius, "border-top-width", &width, NULL);
		gtk_style_context_get_padding(context, state, &padding);
		colour("color", fg);
		colour("background-color", bg);
		colour("border-top-color", top);
		printf(" radius=%d width=%d padding=%d,%d,%d,%d\n", radius, width, padding.top, padding.right, padding.bottom, padding.left);
	}
	return 0;
}
