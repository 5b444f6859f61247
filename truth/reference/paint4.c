/* Draws controls under the theme that GTK 4 finds in its settings into a PNG,
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
		gtk_widget_add_css_class(b, class);
	return b;
}

static GtkWidget *entry(void) {
	GtkWidget *e = gtk_entry_new();
	gtk_editable_set_width_chars(GTK_EDITABLE(e), 4);
	return e;
}

static GtkWidget *off(GtkWidget *w) {
	gtk_widget_set_sensitive(w, FALSE);
	return w;
}

int main(int argc, char **argv) {
	gtk_init();
	GtkWidget *window = gtk_window_new();
	gtk_window_set_decorated(GTK_WINDOW(window), FALSE);
	gtk_window_set_default_size(GTK_WINDOW(window), 780, 400);
	fixed = gtk_fixed_new();
	gtk_widget_set_size_request(fixed, 780, 400);
	gtk_window_set_child(GTK_WINDOW(window), fixed);
	show("button", button(NULL), 100, 36, 0);
	show("button:hover", button(NULL), 100, 36, GTK_STATE_FLAG_PRELIGHT);
	show("button:active", button(NULL), 100, 36, GTK_STATE_FLAG_ACTIVE);
	GtkWidget *toggle = gtk_toggle_button_new_with_label(" ");
	gtk_toggle_button_set_active(GTK_TOGGLE_BUTTON(toggle), TRUE);
	show("button:checked", toggle, 100, 36, 0);
	show("button:disabled", off(button(NULL)), 100, 36, 0);
	show("button.suggested-action", button("suggested-action"), 100, 36, 0);
	show("button.destructive-action", button("destructive-action"), 100, 36, 0);
	show("button.flat", button("flat"), 100, 36, 0);
	show("entry", entry(), 120, 36, 0);
	show("entry:focus", entry(), 120, 36, GTK_STATE_FLAG_FOCUSED | GTK_STATE_FLAG_FOCUS_WITHIN);
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
		gtk_list_box_append(GTK_LIST_BOX(list), gtk_label_new(" "));
	gtk_list_box_select_row(GTK_LIST_BOX(list), gtk_list_box_get_row_at_index(GTK_LIST_BOX(list), 1));
	show("list", list, 120, 0, 0);
	show("separator", gtk_separator_new(GTK_ORIENTATION_HORIZONTAL), 120, 0, 0);
	show("frame", gtk_frame_new(NULL), 100, 40, 0);
	gtk_widget_show(window);
	for (int i = 0; i < 60; i++) {
		while (g_main_context_pending(NULL))
			g_main_context_iteration(NULL, FALSE);
		g_usleep(5000);
	}
	GdkPaintable *paintable = gtk_widget_paintable_new(window);
	int w = gdk_paintable_get_intrinsic_width(paintable), h = gdk_paintable_get_intrinsic_height(paintable);
	GtkSnapshot *snapshot = gtk_snapshot_new();
	gdk_paintable_snapshot(paintable, snapshot, w, h);
	GskRenderNode *node = gtk_snapshot_free_to_node(snapshot);
	cairo_surface_t *surface = cairo_image_surface_create(CAIRO_FORMAT_ARGB32, 780, 400);
	cairo_t *cr = cairo_create(surface);
	if (node)
		gsk_render_node_draw(node, cr);
	cairo_destroy(cr);
	if (argc < 2 || cairo_surface_write_to_png(surface, argv[1]) != CAIRO_STATUS_SUCCESS)
		return 1;
	for (int i = 0; i < count; i++) {
		graphene_rect_t r;
		if (gtk_widget_compute_bounds(all[i].widget, window, &r))
			printf("%s %d %d %d %d\n", all[i].name, (int)(r.origin.x + 0.5), (int)(r.origin.y + 0.5), (int)(r.size.width + 0.5), (int)(r.size.height + 0.5));
	}
	return 0;
}
