/* Draws controls under the theme that GTK 4 finds in its settings into a PNG,
 * and prints a control a line: its name, where it stands and how large it is. */
#include <gtk/gtk.h>
#include <math.h>
#include <stdio.h>

static GtkWidget *fixed;
static int count;

static struct shown {
	const char *name;
	GtkWidget *widget;
} all[64];

enum { wide = 780, high = 1240 };

static void show(const char *name, GtkWidget *w, int width, int height, GtkStateFlags state) {
	if (width || height)
		gtk_widget_set_size_request(w, width ? width : -1, height ? height : -1);
	gtk_fixed_put(GTK_FIXED(fixed), w, 20 + count % 4 * 190, count < 20 ? 20 + count / 4 * 60 : 320 + (count / 4 - 5) * 110);
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

static GtkWidget *choice(gboolean on, gboolean grouped) {
	GtkWidget *w = gtk_check_button_new();
	if (grouped)
		gtk_check_button_set_group(GTK_CHECK_BUTTON(w), GTK_CHECK_BUTTON(gtk_check_button_new()));
	gtk_check_button_set_active(GTK_CHECK_BUTTON(w), on);
	return w;
}

static GtkWidget *spin(void) {
	GtkWidget *w = gtk_spin_button_new_with_range(-9, 9, 1);
	gtk_editable_set_width_chars(GTK_EDITABLE(w), 3);
	gtk_spin_button_set_value(GTK_SPIN_BUTTON(w), 1);
	return w;
}

static GtkWidget *notebook(void) {
	GtkWidget *w = gtk_notebook_new();
	gtk_notebook_append_page(GTK_NOTEBOOK(w), gtk_label_new(" "), gtk_label_new("     "));
	gtk_notebook_append_page(GTK_NOTEBOOK(w), gtk_label_new(" "), gtk_label_new("     "));
	return w;
}

static GtkWidget *bar(void) {
	GtkWidget *w = gtk_header_bar_new();
	gtk_header_bar_set_show_title_buttons(GTK_HEADER_BAR(w), FALSE);
	gtk_header_bar_set_title_widget(GTK_HEADER_BAR(w), gtk_label_new(" "));
	gtk_header_bar_pack_start(GTK_HEADER_BAR(w), gtk_button_new_with_label("   "));
	return w;
}

static GtkWidget *infobar(GtkMessageType kind) {
	GtkWidget *w = gtk_info_bar_new();
	gtk_info_bar_set_message_type(GTK_INFO_BAR(w), kind);
	gtk_info_bar_add_child(GTK_INFO_BAR(w), gtk_label_new("    "));
	gtk_info_bar_add_button(GTK_INFO_BAR(w), "   ", 1);
	return w;
}

static GtkWidget *scrolled(GtkWidget *inside) {
	GtkWidget *w = gtk_scrolled_window_new();
	gtk_scrolled_window_set_policy(GTK_SCROLLED_WINDOW(w), GTK_POLICY_NEVER, GTK_POLICY_ALWAYS);
	gtk_scrolled_window_set_overlay_scrolling(GTK_SCROLLED_WINDOW(w), FALSE);
	gtk_scrolled_window_set_has_frame(GTK_SCROLLED_WINDOW(w), TRUE);
	gtk_scrolled_window_set_child(GTK_SCROLLED_WINDOW(w), inside);
	return w;
}

static GtkWidget *tree(void) {
	GtkListStore *store = gtk_list_store_new(1, G_TYPE_STRING);
	for (int i = 0; i < 3; i++)
		gtk_list_store_insert_with_values(store, NULL, -1, 0, " ", -1);
	GtkWidget *w = gtk_tree_view_new_with_model(GTK_TREE_MODEL(store));
	for (int i = 0; i < 2; i++) {
		GtkTreeViewColumn *column = gtk_tree_view_column_new_with_attributes("   ", gtk_cell_renderer_text_new(), "text", 0, NULL);
		gtk_tree_view_column_set_sizing(column, GTK_TREE_VIEW_COLUMN_FIXED);
		gtk_tree_view_column_set_fixed_width(column, 70);
		gtk_tree_view_append_column(GTK_TREE_VIEW(w), column);
	}
	GtkTreePath *path = gtk_tree_path_new_from_indices(1, -1);
	gtk_tree_selection_select_path(gtk_tree_view_get_selection(GTK_TREE_VIEW(w)), path);
	return w;
}

static GtkWidget *scrollbar(GtkOrientation way) {
	return gtk_scrollbar_new(way, gtk_adjustment_new(30, 0, 100, 1, 10, 40));
}

static GtkWidget *combo(void) {
	GtkWidget *w = gtk_combo_box_text_new();
	gtk_combo_box_text_append_text(GTK_COMBO_BOX_TEXT(w), "    ");
	gtk_combo_box_set_active(GTK_COMBO_BOX(w), 0);
	return w;
}

static GtkWidget *level(void) {
	GtkWidget *w = gtk_level_bar_new_for_interval(0, 4);
	gtk_level_bar_set_mode(GTK_LEVEL_BAR(w), GTK_LEVEL_BAR_MODE_DISCRETE);
	gtk_level_bar_set_value(GTK_LEVEL_BAR(w), 2);
	return w;
}

/* What has a surface of its own is drawn as the part of it that shows. */
static void plainly(GtkSnapshot *snapshot, GtkWidget *w, const char *name, int x, int y, int width, int height) {
	GtkStyleContext *context = gtk_widget_get_style_context(w);
	gtk_snapshot_render_background(snapshot, context, x, y, width, height);
	gtk_snapshot_render_frame(snapshot, context, x, y, width, height);
	printf("%s %d %d %d %d\n", name, x, y, width, height);
}

/* Leaves out what has no size, or a matrix that cannot be inverted, and shows
 * nothing: cairo ends the program over it. */
static GskRenderNode *drawable(GskRenderNode *node) {
	switch (gsk_render_node_get_node_type(node)) {
	case GSK_CONTAINER_NODE: {
		guint n = gsk_container_node_get_n_children(node);
		GskRenderNode **children = g_new(GskRenderNode *, n + 1);
		for (guint i = 0; i < n; i++)
			children[i] = drawable(gsk_container_node_get_child(node, i));
		return gsk_container_node_new(children, n);
	}
	case GSK_TRANSFORM_NODE: {
		graphene_matrix_t matrix;
		gsk_transform_to_matrix(gsk_transform_node_get_transform(node), &matrix);
		if (!(fabs(graphene_matrix_determinant(&matrix)) > 1e-9))
			return gsk_container_node_new(NULL, 0);
		return gsk_transform_node_new(drawable(gsk_transform_node_get_child(node)), gsk_transform_node_get_transform(node));
	}
	case GSK_CLIP_NODE:
		return gsk_clip_node_new(drawable(gsk_clip_node_get_child(node)), gsk_clip_node_get_clip(node));
	case GSK_ROUNDED_CLIP_NODE:
		return gsk_rounded_clip_node_new(drawable(gsk_rounded_clip_node_get_child(node)), gsk_rounded_clip_node_get_clip(node));
	case GSK_OPACITY_NODE:
		return gsk_opacity_node_new(drawable(gsk_opacity_node_get_child(node)), gsk_opacity_node_get_opacity(node));
	case GSK_DEBUG_NODE:
		return drawable(gsk_debug_node_get_child(node));
	case GSK_COLOR_MATRIX_NODE:
	case GSK_TEXTURE_NODE: {
		graphene_rect_t bounds;
		gsk_render_node_get_bounds(node, &bounds);
		if (!(bounds.size.width > 0.01 && bounds.size.height > 0.01))
			return gsk_container_node_new(NULL, 0);
		return gsk_render_node_ref(node);
	}
	default:
		return gsk_render_node_ref(node);
	}
}

int main(int argc, char **argv) {
	gtk_init();
	GtkWidget *window = gtk_window_new();
	gtk_window_set_decorated(GTK_WINDOW(window), FALSE);
	gtk_window_set_default_size(GTK_WINDOW(window), wide, high);
	fixed = gtk_fixed_new();
	gtk_widget_set_size_request(fixed, wide, high);
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
	GtkWidget *typed = entry(); /* as gtkwindow.c gives the focus: to the text in it */
	show("entry:focus", typed, 120, 36, GTK_STATE_FLAG_FOCUS_WITHIN);
	gtk_widget_set_state_flags(GTK_WIDGET(gtk_editable_get_delegate(GTK_EDITABLE(typed))), GTK_STATE_FLAG_FOCUSED | GTK_STATE_FLAG_FOCUS_WITHIN, FALSE);
	show("entry:disabled", off(entry()), 120, 36, 0);
	show("switch", gtk_switch_new(), 0, 0, 0);
	GtkWidget *lit = gtk_switch_new();
	gtk_switch_set_active(GTK_SWITCH(lit), TRUE);
	gtk_switch_set_state(GTK_SWITCH(lit), TRUE);
	show("switch:checked", lit, 0, 0, 0);
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
	show("check", choice(FALSE, FALSE), 0, 0, 0);
	show("check:checked", choice(TRUE, FALSE), 0, 0, 0);
	show("radio:checked", choice(TRUE, TRUE), 0, 0, 0);
	show("radio", choice(FALSE, TRUE), 0, 0, 0);
	show("check:disabled", off(choice(TRUE, FALSE)), 0, 0, 0);
	show("spin", spin(), 0, 0, 0);
	show("notebook", notebook(), 160, 90, 0);
	show("headerbar", bar(), 170, 0, 0);
	show("infobar.info", infobar(GTK_MESSAGE_INFO), 170, 0, 0);
	show("infobar.warning", infobar(GTK_MESSAGE_WARNING), 170, 0, 0);
	show("infobar.error", infobar(GTK_MESSAGE_ERROR), 170, 0, 0);
	show("tree", scrolled(tree()), 170, 100, 0);
	show("scrollbar.horizontal", scrollbar(GTK_ORIENTATION_HORIZONTAL), 120, 0, 0);
	show("scrollbar.vertical", scrollbar(GTK_ORIENTATION_VERTICAL), 0, 90, 0);
	show("combo", combo(), 120, 0, 0);
	show("text", gtk_text_view_new(), 120, 40, 0);
	show("expander", gtk_expander_new("    "), 120, 0, 0);
	show("level", level(), 120, 0, 0);
	show("link", gtk_link_button_new_with_label("http://127.0.0.1", "    "), 100, 36, 0);
	GtkWidget *calendar = gtk_calendar_new();
	GDateTime *day = g_date_time_new_local(2026, 3, 21, 0, 0, 0);
	gtk_calendar_select_day(GTK_CALENDAR(calendar), day);
	show("calendar", calendar, 0, 0, 0);
	GtkWidget *popover = gtk_popover_new();
	gtk_widget_set_parent(popover, fixed);
	gtk_widget_realize(window);
	GdkSurface *on = gtk_native_get_surface(GTK_NATIVE(window)); /* nothing is drawn but the picture */
	g_signal_handlers_block_matched(on, G_SIGNAL_MATCH_ID | G_SIGNAL_MATCH_DATA, g_signal_lookup("render", GDK_TYPE_SURFACE), 0, NULL, NULL, window);
	gtk_widget_show(window);
	for (int i = 0; i < 60; i++) {
		while (g_main_context_pending(NULL))
			g_main_context_iteration(NULL, FALSE);
		g_usleep(5000);
	}
	GtkSnapshot *snapshot = gtk_snapshot_new();
	gtk_snapshot_render_background(snapshot, gtk_widget_get_style_context(window), 0, 0, wide, high);
	gtk_widget_snapshot_child(window, fixed, snapshot);
	plainly(snapshot, gtk_widget_get_first_child(popover), "popover", 400, 1090, 150, 100);
	GskRenderNode *node = gtk_snapshot_free_to_node(snapshot);
	cairo_surface_t *surface = cairo_image_surface_create(CAIRO_FORMAT_ARGB32, wide, high);
	cairo_t *cr = cairo_create(surface);
	if (node)
		gsk_render_node_draw(drawable(node), cr);
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
