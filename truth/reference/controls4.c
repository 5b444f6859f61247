/* Prints, for windows with every usual control in several states, the node and
 * all that GTK 4 computes of it under a style sheet. Arguments: the sheet, a
 * file or a resource:// address; run it with GTK_DEBUG=interactive, which
 * makes GTK keep where values come from. */
#include <gtk/gtk.h>
#include <stdio.h>
#include <string.h>
#pragma GCC diagnostic ignored "-Wdeprecated-declarations"

static void add(GtkWidget *box, GtkWidget *w, const char *classes) {
	char all[128];
	snprintf(all, sizeof all, "%s", classes ? classes : "");
	for (char *c = strtok(all, " "); c; c = strtok(NULL, " "))
		gtk_widget_add_css_class(w, c);
	gtk_box_append(GTK_BOX(box), w);
}

static void each(GtkWidget *w, GtkStateFlags flags, gboolean on) {
	if (on)
		gtk_widget_set_state_flags(w, flags, FALSE);
	else
		gtk_widget_unset_state_flags(w, flags);
	for (GtkWidget *c = gtk_widget_get_first_child(w); c; c = gtk_widget_get_next_sibling(c))
		each(c, flags, on);
}

static GtkWidget *controls(void) {
	GtkWidget *window = gtk_window_new(), *box = gtk_box_new(GTK_ORIENTATION_VERTICAL, 0), *bar = gtk_header_bar_new();
	gtk_header_bar_pack_start(GTK_HEADER_BAR(bar), gtk_button_new_from_icon_name("go-previous-symbolic"));
	GtkWidget *act = gtk_button_new_with_label("Do it");
	gtk_widget_add_css_class(act, "suggested-action");
	gtk_header_bar_pack_end(GTK_HEADER_BAR(bar), act);
	gtk_window_set_titlebar(GTK_WINDOW(window), bar);
	gtk_window_set_child(GTK_WINDOW(window), box);
	add(box, gtk_button_new_with_label("plain"), "");
	add(box, gtk_button_new_with_label("flat"), "flat");
	add(box, gtk_button_new_with_label("no"), "destructive-action");
	add(box, gtk_button_new_with_label("round"), "circular");
	add(box, gtk_toggle_button_new_with_label("on"), "");
	GtkWidget *linked = gtk_box_new(GTK_ORIENTATION_HORIZONTAL, 0);
	for (int i = 0; i < 3; i++)
		add(linked, gtk_button_new_with_label("l"), "");
	add(box, linked, "linked");
	GtkWidget *entry = gtk_entry_new();
	gtk_entry_set_icon_from_icon_name(GTK_ENTRY(entry), GTK_ENTRY_ICON_PRIMARY, "edit-find-symbolic");
	gtk_entry_set_progress_fraction(GTK_ENTRY(entry), 0.4);
	add(box, entry, "");
	add(box, gtk_search_entry_new(), "");
	add(box, gtk_spin_button_new_with_range(0, 9, 1), "");
	add(box, gtk_check_button_new_with_label("c"), "");
	GtkWidget *radio = gtk_check_button_new_with_label("r"), *other = gtk_check_button_new_with_label("s");
	gtk_check_button_set_group(GTK_CHECK_BUTTON(radio), GTK_CHECK_BUTTON(other));
	add(box, radio, "");
	add(box, other, "");
	add(box, gtk_switch_new(), "");
	GtkWidget *scale = gtk_scale_new_with_range(GTK_ORIENTATION_HORIZONTAL, 0, 10, 1);
	gtk_scale_add_mark(GTK_SCALE(scale), 5, GTK_POS_BOTTOM, "5");
	add(box, scale, "");
	add(box, gtk_progress_bar_new(), "");
	add(box, gtk_level_bar_new_for_interval(0, 4), "");
	GtkWidget *notebook = gtk_notebook_new();
	for (int i = 0; i < 3; i++)
		gtk_notebook_append_page(GTK_NOTEBOOK(notebook), gtk_label_new("p"), gtk_label_new("tab"));
	add(box, notebook, "");
	GtkWidget *list = gtk_list_box_new();
	for (int i = 0; i < 3; i++)
		gtk_list_box_append(GTK_LIST_BOX(list), gtk_label_new("row"));
	gtk_list_box_select_row(GTK_LIST_BOX(list), gtk_list_box_get_row_at_index(GTK_LIST_BOX(list), 1));
	add(box, list, "boxed-list");
	GtkWidget *view = gtk_text_view_new(), *scrolled = gtk_scrolled_window_new();
	gtk_scrolled_window_set_child(GTK_SCROLLED_WINDOW(scrolled), view);
	gtk_scrolled_window_set_policy(GTK_SCROLLED_WINDOW(scrolled), GTK_POLICY_ALWAYS, GTK_POLICY_ALWAYS);
	gtk_scrolled_window_set_overlay_scrolling(GTK_SCROLLED_WINDOW(scrolled), FALSE);
	gtk_scrolled_window_set_has_frame(GTK_SCROLLED_WINDOW(scrolled), TRUE);
	add(box, scrolled, "sidebar");
	for (int i = 0; i < 4; i++) {
		GtkWidget *info = gtk_info_bar_new();
		gtk_info_bar_set_message_type(GTK_INFO_BAR(info), i);
		gtk_info_bar_add_button(GTK_INFO_BAR(info), "Yes", 1);
		add(box, info, "");
	}
	add(box, gtk_link_button_new("http://127.0.0.1"), "");
	const char *choices[] = { "one", "two", NULL };
	add(box, gtk_drop_down_new_from_strings(choices), "");
	add(box, gtk_expander_new("more"), "");
	GtkWidget *frame = gtk_frame_new("frame");
	gtk_frame_set_child(GTK_FRAME(frame), gtk_label_new("in it"));
	add(box, frame, "");
	GtkWidget *paned = gtk_paned_new(GTK_ORIENTATION_HORIZONTAL);
	gtk_paned_set_start_child(GTK_PANED(paned), gtk_calendar_new());
	gtk_paned_set_end_child(GTK_PANED(paned), gtk_separator_new(GTK_ORIENTATION_VERTICAL));
	add(box, paned, "");
	GtkWidget *action = gtk_action_bar_new(), *menu = gtk_menu_button_new(), *popover = gtk_popover_new();
	gtk_popover_set_child(GTK_POPOVER(popover), gtk_label_new("in a popover"));
	gtk_menu_button_set_popover(GTK_MENU_BUTTON(menu), popover);
	gtk_action_bar_pack_start(GTK_ACTION_BAR(action), menu);
	add(box, action, "");
	add(box, gtk_spinner_new(), "");
	add(box, gtk_label_new("title"), "title-1 error");
	add(box, gtk_label_new("dim"), "dim-label caption");
	return window;
}

static void print(GtkWidget *w) {
	char *text = gtk_style_context_to_string(gtk_widget_get_style_context(w), GTK_STYLE_CONTEXT_PRINT_SHOW_STYLE | GTK_STYLE_CONTEXT_PRINT_RECURSE);
	printf("%s\n--\n", text);
	g_free(text);
}

int main(int argc, char **argv) {
	(void)argc;
	gtk_init();
	GtkCssProvider *sheet = gtk_css_provider_new();
	char *dir = g_path_get_dirname(argv[1]), *bundle = g_build_filename(dir, "gtk.gresource", NULL);
	GResource *resource = g_resource_load(bundle, NULL); /* a theme's own, beside its sheet */
	if (resource)
		g_resources_register(resource);
	if (g_str_has_prefix(argv[1], "resource://"))
		gtk_css_provider_load_from_resource(sheet, argv[1] + strlen("resource://"));
	else
		gtk_css_provider_load_from_path(sheet, argv[1]);
	gtk_style_context_add_provider_for_display(gdk_display_get_default(), GTK_STYLE_PROVIDER(sheet), GTK_STYLE_PROVIDER_PRIORITY_APPLICATION);
	g_object_set(gtk_settings_get_default(), "gtk-enable-animations", FALSE, NULL);
	GtkWidget *all[2] = { controls(), gtk_message_dialog_new(NULL, 0, GTK_MESSAGE_QUESTION, GTK_BUTTONS_OK_CANCEL, "Sure?") };
	GtkStateFlags states[] = { 0, GTK_STATE_FLAG_PRELIGHT, GTK_STATE_FLAG_ACTIVE, GTK_STATE_FLAG_CHECKED, GTK_STATE_FLAG_INSENSITIVE, GTK_STATE_FLAG_BACKDROP,
		GTK_STATE_FLAG_SELECTED, GTK_STATE_FLAG_FOCUSED | GTK_STATE_FLAG_FOCUS_VISIBLE | GTK_STATE_FLAG_FOCUS_WITHIN, GTK_STATE_FLAG_CHECKED | GTK_STATE_FLAG_PRELIGHT,
		GTK_STATE_FLAG_BACKDROP | GTK_STATE_FLAG_INSENSITIVE };
	for (size_t s = 0; s < G_N_ELEMENTS(states); s++)
		for (int i = 0; i < 2; i++) {
			each(all[i], states[s], TRUE);
			print(all[i]);
			each(all[i], states[s], FALSE);
		}
	return 0;
}
