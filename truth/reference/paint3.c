/* Draws controls under the theme that GTK 3 finds in its settings into a PNG,
 * and prints a control a line: its name, where it stands and how large it is. */
#include <gtk/gtk.h>
#include <stdio.h>

static GtkWidget *fixed;
static int count;

static struct shown {
	const char *name;
	GtkWidget *widget;
} all[64];

static void show(const char *name, GtkWidget *w, int width, int height, GtkStateFlags state) {
	if (width || height)
		gtk_widget_set_size_request(w, width ? width : -1, height ? height : -1);
	gtk_fixed_put(GTK_FIXED(fixed), w, 20 + count % 4 * 190, 20 + count / 4 * 60);
	gtk_widget_set_can_focus(w, FALSE);
	if (state)
		gtk_widget_set_state_flags(w, state, FALSE);
	all[count++] = (struct shown){name, w};
}

static GtkWidget *button(const char *class) {
	GtkWidget *b = gtk_button_new_with_label(" ");
	if (class)
		gtk_style_context_add_class(gtk_widget_get_style_context(b), class);
	return b;
}

static GtkWidget *toggled(GtkWidget *w) {
	gtk_toggle_button_set_active(GTK_TOGGLE_BUTTON(w), TRUE);
	return w;
}

static GtkWidget *entry(void) {
	GtkWidget *e = gtk_entry_new();
	gtk_entry_set_width_chars(GTK_ENTRY(e), 4);
	return e;
}

static GtkWidget *off(GtkWidget *w) {
	gtk_widget_set_sensitive(w, FALSE);
	return w;
}

int main(int argc, char **argv) {
	gtk_init(&argc, &argv);
	GtkWidget *window = gtk_window_new(GTK_WINDOW_POPUP);
	gtk_window_set_default_size(GTK_WINDOW(window), 780, 400);
	fixed = gtk_fixed_new();
	gtk_widget_set_size_request(fixed, 780, 400);
	gtk_container_add(GTK_CONTAINER(window), fixed);
	show("button", button(NULL), 100, 36, 0);
	show("button:hover", button(NULL), 100, 36, GTK_STATE_FLAG_PRELIGHT);
	show("button:active", button(NULL), 100, 36, GTK_STATE_FLAG_ACTIVE);
	show("button:checked", toggled(gtk_toggle_button_new_with_label(" ")), 100, 36, 0);
	show("button:disabled", off(button(NULL)), 100, 36, 0);
	show("button.suggested-action", button("suggested-action"), 100, 36, 0);
	show("button.destructive-action", button("destructive-action"), 100, 36, 0);
	show("button.flat", button("flat"), 100, 36, 0);
	show("entry", entry(), 120, 36, 0);
	show("entry:focus", entry(), 120, 36, GTK_STATE_FLAG_FOCUSED);
	show("entry:disabled", off(entry()), 120, 36, 0);
	show("switch", gtk_switch_new(), 0, 0, 0);
	GtkWidget *on = gtk_switch_new();
	gtk_switch_set_active(GTK_SWITCH(on), TRUE);
	gtk_switch_set_state(GTK_SWITCH(on), TRUE);
	show("switch:checked", on, 0, 0, 0);
	GtkWidget *progress = gtk_progress_bar_new();
	gtk_progress_bar_set_fraction(GTK_PROGRESS_BAR(progress), 0.6);
	show("progress", progress, 120, 0, 0);
	GtkWidget *scale = gtk_scale_new_with_range(GTK_ORIENTATION_HORIZONTAL, 0, 10, 1);
	gtk_scale_set_draw_value(GTK_SCALE(scale), FALSE);
	gtk_range_set_value(GTK_RANGE(scale), 4);
	show("scale", scale, 120, 0, 0);
	GtkWidget *list = gtk_list_box_new();
	for (int i = 0; i < 2; i++)
		gtk_container_add(GTK_CONTAINER(list), gtk_label_new(" "));
	gtk_list_box_select_row(GTK_LIST_BOX(list), gtk_list_box_get_row_at_index(GTK_LIST_BOX(list), 1));
	show("list", list, 120, 0, 0);
	show("separator", gtk_separator_new(GTK_ORIENTATION_HORIZONTAL), 120, 0, 0);
	GtkWidget *frame = gtk_frame_new(NULL);
	show("frame", frame, 100, 40, 0);
	gtk_widget_show_all(window);
	for (int i = 0; i < 50; i++) {
		while (gtk_events_pending())
			gtk_main_iteration();
		g_usleep(2000);
	}
	cairo_surface_t *surface = cairo_image_surface_create(CAIRO_FORMAT_ARGB32, 780, 400);
	cairo_t *cr = cairo_create(surface);
	gtk_widget_draw(window, cr);
	cairo_destroy(cr);
	if (argc < 2 || cairo_surface_write_to_png(surface, argv[1]) != CAIRO_STATUS_SUCCESS)
		return 1;
	for (int i = 0; i < count; i++) {
		GtkAllocation a;
		int x, y;
		gtk_widget_get_allocation(all[i].widget, &a);
		gtk_widget_translate_coordinates(all[i].widget, window, 0, 0, &x, &y);
		printf("%s %d %d %d %d\n", all[i].name, x, y, a.width, a.height);
	}
	return 0;
}
