/* Prints the style that GTK 2 gives to widgets in a window under the theme that
 * its resource files name: for each widget a line with its path, one with the
 * types of each part of it, then its colours by state and its thickness. */
#include <gtk/gtk.h>
#include <stdio.h>

static const char *states[] = {"NORMAL", "ACTIVE", "PRELIGHT", "SELECTED", "INSENSITIVE"};

static void types(GtkWidget *w) {
	GtkWidget *parent = gtk_widget_get_parent(w);
	if (parent)
		types(parent);
	printf(" %s", gtk_widget_get_name(w));
	for (GType t = G_OBJECT_TYPE(w); t; t = g_type_parent(t))
		printf(",%s", g_type_name(t));
}

static void print(GtkWidget *w, gpointer data) {
	gtk_widget_ensure_style(w);
	GtkStyle *s = gtk_widget_get_style(w);
	printf("widget");
	types(w);
	printf("\n");
	for (int i = 0; i < 5; i++) {
		GdkColor *c[4] = {&s->fg[i], &s->bg[i], &s->text[i], &s->base[i]};
		const char *n[4] = {"fg", "bg", "text", "base"};
		for (int j = 0; j < 4; j++)
			printf("%s[%s] %d %d %d\n", n[j], states[i], c[j]->red >> 8, c[j]->green >> 8, c[j]->blue >> 8);
	}
	printf("thickness %d %d 0\n", s->xthickness, s->ythickness);
	if (GTK_IS_CONTAINER(w))
		gtk_container_forall(GTK_CONTAINER(w), print, NULL);
}

int main(int argc, char **argv) {
	gtk_init(&argc, &argv);
	GtkWidget *window = gtk_window_new(GTK_WINDOW_TOPLEVEL), *box = gtk_vbox_new(FALSE, 0);
	gtk_container_add(GTK_CONTAINER(window), box);
	GtkWidget *bar = gtk_menu_bar_new(), *item = gtk_menu_item_new_with_label("File");
	gtk_menu_shell_append(GTK_MENU_SHELL(bar), item);
	gtk_container_add(GTK_CONTAINER(box), bar);
	GtkWidget *keeper = gtk_button_new_with_label("Light it");
	gtk_widget_set_name(keeper, "keeper");
	gtk_container_add(GTK_CONTAINER(box), keeper);
	gtk_container_add(GTK_CONTAINER(box), gtk_toggle_button_new_with_label("On"));
	gtk_container_add(GTK_CONTAINER(box), gtk_check_button_new_with_label("Check"));
	gtk_container_add(GTK_CONTAINER(box), gtk_entry_new());
	gtk_container_add(GTK_CONTAINER(box), gtk_progress_bar_new());
	gtk_container_add(GTK_CONTAINER(box), gtk_hscrollbar_new(NULL));
	GtkWidget *book = gtk_notebook_new();
	gtk_notebook_append_page(GTK_NOTEBOOK(book), gtk_frame_new("Frame"), gtk_label_new("Tides"));
	gtk_container_add(GTK_CONTAINER(box), book);
	GtkWidget *view = gtk_tree_view_new_with_model(GTK_TREE_MODEL(gtk_list_store_new(1, G_TYPE_STRING)));
	gtk_tree_view_append_column(GTK_TREE_VIEW(view), gtk_tree_view_column_new_with_attributes("Name", gtk_cell_renderer_text_new(), "text", 0, NULL));
	GtkWidget *scrolled = gtk_scrolled_window_new(NULL, NULL);
	gtk_container_add(GTK_CONTAINER(scrolled), view);
	gtk_container_add(GTK_CONTAINER(box), scrolled);
	GtkWidget *menu = gtk_menu_new();
	gtk_menu_shell_append(GTK_MENU_SHELL(menu), gtk_menu_item_new_with_label("Open"));
	gtk_menu_shell_append(GTK_MENU_SHELL(menu), gtk_separator_menu_item_new());
	gtk_menu_shell_append(GTK_MENU_SHELL(menu), gtk_check_menu_item_new_with_label("Tick"));
	gtk_menu_item_set_submenu(GTK_MENU_ITEM(item), menu);
	GtkWidget *tools = gtk_toolbar_new();
	gtk_toolbar_insert(GTK_TOOLBAR(tools), gtk_tool_button_new(gtk_label_new("x"), "Cut"), -1);
	gtk_toolbar_insert(GTK_TOOLBAR(tools), gtk_separator_tool_item_new(), -1);
	gtk_container_add(GTK_CONTAINER(box), tools);
	gtk_container_add(GTK_CONTAINER(box), gtk_radio_button_new_with_label(NULL, "Radio"));
	gtk_container_add(GTK_CONTAINER(box), gtk_spin_button_new_with_range(0, 9, 1));
	gtk_container_add(GTK_CONTAINER(box), gtk_hscale_new_with_range(0, 9, 1));
	gtk_container_add(GTK_CONTAINER(box), gtk_text_view_new());
	gtk_container_add(GTK_CONTAINER(box), gtk_combo_box_text_new());
	gtk_container_add(GTK_CONTAINER(box), gtk_expander_new("More"));
	gtk_container_add(GTK_CONTAINER(box), gtk_statusbar_new());
	gtk_container_add(GTK_CONTAINER(box), gtk_hseparator_new());
	GtkWidget *tip = gtk_window_new(GTK_WINDOW_POPUP);
	gtk_widget_set_name(tip, "gtk-tooltip");
	gtk_container_add(GTK_CONTAINER(tip), gtk_label_new("Tip"));
	print(window, NULL);
	print(gtk_widget_get_toplevel(menu), NULL);
	print(tip, NULL);
	return 0;
}
