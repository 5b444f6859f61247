/* Prints the least size of controls under the theme and the font that GTK 3
 * finds in its settings: a name, width and height a line. */
#include <gtk/gtk.h>
#include <stdio.h>

static GtkWidget *box;

static void size(const char *name, GtkWidget *w) {
	GtkRequisition least;
	gtk_container_add(GTK_CONTAINER(box), w);
	gtk_widget_show_all(w);
	gtk_widget_get_preferred_size(w, &least, NULL);
	printf("%s %d %d\n", name, least.width, least.height);
}

int main(int argc, char **argv) {
	gtk_init(&argc, &argv);
	GtkWidget *window = gtk_window_new(GTK_WINDOW_TOPLEVEL);
	box = gtk_box_new(GTK_ORIENTATION_VERTICAL, 0);
	gtk_container_add(GTK_CONTAINER(window), box);
	size("label", gtk_label_new("Low water 06:40"));
	size("button", gtk_button_new_with_label("Plain"));
	size("icon-button", gtk_button_new_from_icon_name("go-up-symbolic", GTK_ICON_SIZE_MENU));
	size("entry", gtk_entry_new());
	size("switch", gtk_switch_new());
	size("progress", gtk_progress_bar_new());
	GtkWidget *scale = gtk_scale_new_with_range(GTK_ORIENTATION_HORIZONTAL, 0, 10, 1);
	gtk_scale_set_draw_value(GTK_SCALE(scale), FALSE);
	size("scale", scale);
	size("check", gtk_check_button_new());
	size("radio", gtk_radio_button_new(NULL));
	GtkWidget *list = gtk_list_box_new();
	gtk_container_add(GTK_CONTAINER(list), gtk_label_new("A line"));
	size("row", list);
	size("separator", gtk_separator_new(GTK_ORIENTATION_HORIZONTAL));
	size("spin", gtk_spin_button_new_with_range(0, 9, 1));
	return 0;
}
