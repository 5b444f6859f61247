/* Prints, for windows with every usual control in several states, the node and
 * all that GTK 3 computes of it under a style sheet. Arguments: the sheet, a
 * file or a resource:// address; run it with GTK_DEBUG=interactive, which
 * makes GTK keep where values come from. */
#include <gtk/gtk.h>
#include <stdio.h>
#include <string.h>

static void add(GtkWidget *box, GtkWidget *w, const char *classes) {
	char all[128];
	snprintf(all, sizeof all, "%s", classes ? classes : "");
	for (char *c = strtok(all, " "); c; c = strtok(NULL, " "))
		gtk_style_context_add_class(gtk_widget_get_style_context(w), c);
	gtk_container_add(GTK_CONTAINER(box), w);
}

static GtkStateFlags now;

static void set(GtkWidget *w, gpointer unused) {
	(void)unused;
	gtk_widget_set_state_flags(w, now, FALSE);
	if (GTK_IS_CONTAINER(w))
		gtk_container_forall(GTK_CONTAINER(w), set, NULL);
}

static void unset(GtkWidget *w, gpointer unused) {
	(void)unused;
	gtk_widget_unset_state_flags(w, now);
	if (GTK_IS_CONTAINER(w))
		gtk_container_forall(GTK_CONTAINER(w), unset, NULL);
}

static GtkWidget *with_bar(GtkWidget *window) {
	GtkWidget *bar = gtk_header_bar_new(), *group = gtk_stack_switcher_new(), *stack = gtk_stack_new();
	gtk_header_bar_set_title(GTK_HEADER_BAR(bar), "Low water");
	gtk_header_bar_set_subtitle(GTK_HEADER_BAR(bar), "at noon");
	gtk_header_bar_set_show_close_button(GTK_HEADER_BAR(bar), TRUE);
	add(bar, gtk_button_new_from_icon_name("go-previous-symbolic", GTK_ICON_SIZE_MENU), "");
	add(bar, gtk_button_new_with_label("Do it"), "suggested-action");
	gtk_stack_add_titled(GTK_STACK(stack), gtk_label_new("a"), "a", "A");
	gtk_stack_add_titled(GTK_STACK(stack), gtk_label_new("b"), "b", "B");
	gtk_stack_switcher_set_stack(GTK_STACK_SWITCHER(group), GTK_STACK(stack));
	add(bar, group, "");
	gtk_window_set_titlebar(GTK_WINDOW(window), bar);
	return stack;
}

static GtkWidget *controls(void) {
	GtkWidget *window = gtk_window_new(GTK_WINDOW_TOPLEVEL), *box = gtk_box_new(GTK_ORIENTATION_VERTICAL, 0);
	add(box, with_bar(window), "");
	gtk_container_add(GTK_CONTAINER(window), box);
	add(box, gtk_button_new_with_label("plain"), "");
	add(box, gtk_button_new_with_label("flat"), "flat");
	add(box, gtk_button_new_with_label("no"), "destructive-action");
	add(box, gtk_toggle_button_new_with_label("on"), "");
	GtkWidget *linked = gtk_box_new(GTK_ORIENTATION_HORIZONTAL, 0);
	for (int i = 0; i < 3; i++)
		add(linked, gtk_button_new_with_label("l"), "");
	add(box, linked, "linked");
	GtkWidget *entry = gtk_entry_new();
	gtk_entry_set_icon_from_icon_name(GTK_ENTRY(entry), GTK_ENTRY_ICON_PRIMARY, "edit-find-symbolic");
	gtk_entry_set_progress_fraction(GTK_ENTRY(entry), 0.4);
	add(box, entry, "");
	add(box, gtk_spin_button_new_with_range(0, 9, 1), "");
	add(box, gtk_check_button_new_with_label("c"), "");
	add(box, gtk_radio_button_new_with_label(NULL, "r"), "");
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
		add(list, gtk_label_new("row"), "");
	gtk_list_box_select_row(GTK_LIST_BOX(list), gtk_list_box_get_row_at_index(GTK_LIST_BOX(list), 1));
	add(box, list, "");
	GtkListStore *store = gtk_list_store_new(1, G_TYPE_STRING);
	GtkWidget *view = gtk_tree_view_new_with_model(GTK_TREE_MODEL(store));
	gtk_tree_view_append_column(GTK_TREE_VIEW(view), gtk_tree_view_column_new_with_attributes("Name", gtk_cell_renderer_text_new(), "text", 0, NULL));
	GtkWidget *scrolled = gtk_scrolled_window_new(NULL, NULL);
	gtk_container_add(GTK_CONTAINER(scrolled), view);
	gtk_scrolled_window_set_policy(GTK_SCROLLED_WINDOW(scrolled), GTK_POLICY_ALWAYS, GTK_POLICY_ALWAYS);
	gtk_scrolled_window_set_overlay_scrolling(GTK_SCROLLED_WINDOW(scrolled), FALSE);
	gtk_scrolled_window_set_shadow_type(GTK_SCROLLED_WINDOW(scrolled), GTK_SHADOW_IN);
	add(box, scrolled, "sidebar");
	add(box, gtk_text_view_new(), "");
	GtkWidget *bar = gtk_menu_bar_new(), *item = gtk_menu_item_new_with_label("File"), *menu = gtk_menu_new();
	gtk_menu_shell_append(GTK_MENU_SHELL(menu), gtk_menu_item_new_with_label("Open"));
	gtk_menu_shell_append(GTK_MENU_SHELL(menu), gtk_separator_menu_item_new());
	gtk_menu_shell_append(GTK_MENU_SHELL(menu), gtk_check_menu_item_new_with_label("Tick"));
	gtk_menu_item_set_submenu(GTK_MENU_ITEM(item), menu);
	gtk_menu_shell_append(GTK_MENU_SHELL(bar), item);
	add(box, bar, "");
	GtkWidget *tools = gtk_toolbar_new();
	gtk_toolbar_insert(GTK_TOOLBAR(tools), gtk_tool_button_new(NULL, "Cut"), -1);
	gtk_toolbar_insert(GTK_TOOLBAR(tools), gtk_separator_tool_item_new(), -1);
	add(box, tools, "primary-toolbar");
	for (int i = 0; i < 4; i++) {
		GtkWidget *info = gtk_info_bar_new();
		gtk_info_bar_set_message_type(GTK_INFO_BAR(info), i);
		gtk_info_bar_add_button(GTK_INFO_BAR(info), "Yes", 1);
		add(box, info, "");
	}
	add(box, gtk_link_button_new("http://127.0.0.1"), "");
	GtkWidget *combo = gtk_combo_box_text_new();
	gtk_combo_box_text_append_text(GTK_COMBO_BOX_TEXT(combo), "one");
	add(box, combo, "");
	add(box, gtk_expander_new("more"), "");
	GtkWidget *frame = gtk_frame_new("frame");
	add(frame, gtk_label_new("dim"), "dim-label");
	add(box, frame, "");
	GtkWidget *paned = gtk_paned_new(GTK_ORIENTATION_HORIZONTAL);
	gtk_paned_add1(GTK_PANED(paned), gtk_calendar_new());
	gtk_paned_add2(GTK_PANED(paned), gtk_separator_new(GTK_ORIENTATION_VERTICAL));
	add(box, paned, "");
	GtkWidget *action = gtk_action_bar_new();
	add(action, gtk_button_new_with_label("act"), "");
	add(box, action, "");
	add(box, gtk_statusbar_new(), "");
	add(box, gtk_search_bar_new(), "");
	add(box, gtk_spinner_new(), "");
	add(box, gtk_label_new("title"), "title h1 error");
	return window;
}

static void print(GtkWidget *w) {
	char *text = gtk_style_context_to_string(gtk_widget_get_style_context(w), GTK_STYLE_CONTEXT_PRINT_SHOW_STYLE | GTK_STYLE_CONTEXT_PRINT_RECURSE);
	printf("%s\n--\n", text);
	g_free(text);
}

int main(int argc, char **argv) {
	gtk_init(&argc, &argv);
	GtkCssProvider *sheet = gtk_css_provider_new();
	char *dir = g_path_get_dirname(argv[1]), *bundle = g_build_filename(dir, "gtk.gresource", NULL);
	GResource *resource = g_resource_load(bundle, NULL); /* a theme's own, beside its sheet */
	if (resource)
		g_resources_register(resource);
	if (g_str_has_prefix(argv[1], "resource://"))
		gtk_css_provider_load_from_resource(sheet, argv[1] + strlen("resource://"));
	else
		gtk_css_provider_load_from_path(sheet, argv[1], NULL);
	gtk_style_context_add_provider_for_screen(gdk_screen_get_default(), GTK_STYLE_PROVIDER(sheet), GTK_STYLE_PROVIDER_PRIORITY_APPLICATION);
	g_object_set(gtk_settings_get_default(), "gtk-enable-animations", FALSE, NULL);
	GtkWidget *all[4];
	all[0] = controls();
	all[1] = gtk_message_dialog_new(NULL, 0, GTK_MESSAGE_QUESTION, GTK_BUTTONS_OK_CANCEL, "Sure?");
	all[2] = gtk_window_new(GTK_WINDOW_POPUP);
	gtk_style_context_add_class(gtk_widget_get_style_context(all[2]), "tooltip");
	add(all[2], gtk_label_new("tip"), "");
	GtkWidget *menu = gtk_menu_new();
	gtk_menu_shell_append(GTK_MENU_SHELL(menu), gtk_menu_item_new_with_label("Open"));
	gtk_menu_shell_append(GTK_MENU_SHELL(menu), gtk_separator_menu_item_new());
	gtk_menu_shell_append(GTK_MENU_SHELL(menu), gtk_check_menu_item_new_with_label("Tick"));
	gtk_widget_show_all(menu);
	all[3] = gtk_widget_get_toplevel(menu);
	for (int i = 0; i < 3; i++)
		gtk_widget_show_all(all[i]);
	GtkStateFlags states[] = { 0, GTK_STATE_FLAG_PRELIGHT, GTK_STATE_FLAG_ACTIVE, GTK_STATE_FLAG_CHECKED, GTK_STATE_FLAG_INSENSITIVE, GTK_STATE_FLAG_BACKDROP,
		GTK_STATE_FLAG_SELECTED, GTK_STATE_FLAG_FOCUSED, GTK_STATE_FLAG_CHECKED | GTK_STATE_FLAG_PRELIGHT, GTK_STATE_FLAG_BACKDROP | GTK_STATE_FLAG_INSENSITIVE };
	for (size_t s = 0; s < G_N_ELEMENTS(states); s++)
		for (int i = 0; i < 4; i++) {
			now = states[s];
			set(all[i], NULL);
			print(all[i]);
			unset(all[i], NULL);
		}
	return 0;
}
