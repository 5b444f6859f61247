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

static GtkWidget *choice(GtkWidget *w, gboolean on) {
	gtk_toggle_button_set_active(GTK_TOGGLE_BUTTON(w), on);
	return w;
}

static GtkWidget *spin(void) {
	GtkWidget *w = gtk_spin_button_new_with_range(-9, 9, 1);
	gtk_entry_set_width_chars(GTK_ENTRY(w), 3);
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
	gtk_header_bar_pack_start(GTK_HEADER_BAR(w), gtk_button_new_with_label("   "));
	return w;
}

static GtkWidget *menubar(void) {
	GtkWidget *w = gtk_menu_bar_new(), *over = gtk_menu_item_new_with_label("    ");
	gtk_menu_shell_append(GTK_MENU_SHELL(w), gtk_menu_item_new_with_label("    "));
	gtk_menu_shell_append(GTK_MENU_SHELL(w), over);
	gtk_widget_set_state_flags(over, GTK_STATE_FLAG_PRELIGHT, FALSE);
	return w;
}

static GtkWidget *infobar(GtkMessageType kind) {
	GtkWidget *w = gtk_info_bar_new();
	gtk_info_bar_set_message_type(GTK_INFO_BAR(w), kind);
	gtk_container_add(GTK_CONTAINER(gtk_info_bar_get_content_area(GTK_INFO_BAR(w))), gtk_label_new("    "));
	gtk_info_bar_add_button(GTK_INFO_BAR(w), "   ", 1);
	return w;
}

static GtkWidget *scrolled(GtkWidget *inside) {
	GtkWidget *w = gtk_scrolled_window_new(NULL, NULL);
	gtk_scrolled_window_set_policy(GTK_SCROLLED_WINDOW(w), GTK_POLICY_NEVER, GTK_POLICY_ALWAYS);
	gtk_scrolled_window_set_overlay_scrolling(GTK_SCROLLED_WINDOW(w), FALSE);
	gtk_scrolled_window_set_shadow_type(GTK_SCROLLED_WINDOW(w), GTK_SHADOW_IN);
	gtk_container_add(GTK_CONTAINER(w), inside);
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

/* A menu, in the window that GTK puts it into. */
static GtkWidget *menu(void) {
	GtkWidget *w = gtk_menu_new();
	GtkWidget *item[] = {gtk_menu_item_new_with_label("       "), gtk_menu_item_new_with_label("       "), gtk_separator_menu_item_new(), gtk_check_menu_item_new_with_label("       "), off(gtk_menu_item_new_with_label("       "))};
	for (size_t i = 0; i < G_N_ELEMENTS(item); i++)
		gtk_menu_shell_append(GTK_MENU_SHELL(w), item[i]);
	gtk_check_menu_item_set_active(GTK_CHECK_MENU_ITEM(item[3]), TRUE);
	gtk_widget_set_state_flags(item[1], GTK_STATE_FLAG_PRELIGHT, FALSE);
	gtk_widget_show_all(w);
	return w;
}

/* What has a window of its own is drawn as GTK draws a node of that name. */
static void plainly(cairo_t *cr, const char *name, int x, int y, int w, int h) {
	GtkWidgetPath *path = gtk_widget_path_new();
	gtk_widget_path_append_type(path, GTK_TYPE_WINDOW);
	gtk_widget_path_iter_set_object_name(path, -1, name);
	gtk_widget_path_iter_add_class(path, -1, "background");
	GtkStyleContext *context = gtk_style_context_new();
	gtk_style_context_set_path(context, path);
	gtk_render_background(context, cr, x, y, w, h);
	gtk_render_frame(context, cr, x, y, w, h);
	printf("%s %d %d %d %d\n", name, x, y, w, h);
}

int main(int argc, char **argv) {
	gtk_init(&argc, &argv);
	GtkWidget *window = gtk_window_new(GTK_WINDOW_POPUP);
	gtk_window_set_default_size(GTK_WINDOW(window), wide, high);
	fixed = gtk_fixed_new();
	gtk_widget_set_size_request(fixed, wide, high);
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
	show("check", gtk_check_button_new(), 0, 0, 0);
	show("check:checked", choice(gtk_check_button_new(), TRUE), 0, 0, 0);
	GtkWidget *one = gtk_radio_button_new(NULL);
	show("radio:checked", one, 0, 0, 0);
	show("radio", gtk_radio_button_new_from_widget(GTK_RADIO_BUTTON(one)), 0, 0, 0);
	show("check:disabled", off(choice(gtk_check_button_new(), TRUE)), 0, 0, 0);
	show("spin", spin(), 0, 0, 0);
	show("notebook", notebook(), 160, 90, 0);
	show("headerbar", bar(), 170, 0, 0);
	show("menubar", menubar(), 160, 0, 0);
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
	gtk_calendar_select_month(GTK_CALENDAR(calendar), 2, 2026);
	gtk_calendar_select_day(GTK_CALENDAR(calendar), 21);
	show("calendar", calendar, 0, 0, 0);
	gtk_widget_show_all(window);
	GtkWidget *apart = menu();
	GdkRectangle beside = {wide + 20, 0, 1, 1};
	gtk_menu_popup_at_rect(GTK_MENU(apart), gtk_widget_get_window(window), &beside, GDK_GRAVITY_NORTH_WEST, GDK_GRAVITY_NORTH_WEST, NULL);
	for (int i = 0; i < 50; i++) {
		while (gtk_events_pending())
			gtk_main_iteration();
		g_usleep(2000);
	}
	cairo_surface_t *surface = cairo_image_surface_create(CAIRO_FORMAT_ARGB32, wide, high);
	cairo_t *cr = cairo_create(surface);
	gdk_cairo_set_source_window(cr, gtk_widget_get_window(window), 0, 0); /* headings of columns are in windows of their own */
	cairo_paint(cr);
	GtkWidget *around = gtk_widget_get_toplevel(apart);
	GtkAllocation of;
	int mx, my;
	gtk_widget_get_allocation(apart, &of);
	gtk_widget_translate_coordinates(apart, around, 0, 0, &mx, &my);
	gdk_cairo_set_source_window(cr, gtk_widget_get_window(around), 20 - mx, 1090 - my);
	cairo_rectangle(cr, 20, 1090, of.width, of.height);
	cairo_fill(cr);
	printf("menu 20 1090 %d %d\n", of.width, of.height);
	plainly(cr, "tooltip", 210, 1090, 120, 40);
	plainly(cr, "popover", 400, 1090, 150, 100);
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
