/* Prints the least size of controls under the theme and the font that GTK 4
 * finds in its settings: a name, width and height a line. */
#include <gtk/gtk.h>
#include <stdio.h>

static GtkWidget *box;

static void size(const char *name, GtkWidget *w) {
	GtkRequisition least;
	gtk_box_append(GTK_BOX(box), w);
	gtk_widget_get_preferred_size(w, &least, NULL);
	printf("%s %d %d\n", name, least.width, least.height);
}

int main(void) {
	gtk_init();
	GtkWidget *window = gtk_window_new();
	box = gtk_box_new(GTK_ORIENTATION_VERTICAL, 0);
	gtk_window_set_child(GTK_WINDOW(window), box);
	gtk_window_present(GTK_WINDOW(window));
	size("label", gtk_label_new("Low water 06:40"));
	size("button", gtk_button_new_with_label("Plain"));
	size("icon-button", gtk_button_new_from_icon_name("go-up-symbolic"));
	size("entry", gtk_entry_new());
	size("switch", gtk_switch_new());
	size("progress", gtk_progress_bar_new());
	size("scale", gtk_scale_new_with_range(GTK_ORIENTATION_HORIZONTAL, 0, 10, 1));
	size("check", gtk_check_button_new());
	GtkWidget *radio = gtk_check_button_new(), *other = gtk_check_button_new();
	gtk_check_button_set_group(GTK_CHECK_BUTTON(radio), GTK_CHECK_BUTTON(other));
	size("radio", radio);
	GtkWidget *list = gtk_list_box_new();
	gtk_list_box_append(GTK_LIST_BOX(list), gtk_label_new("A line"));
	size("row", list);
	size("separator", gtk_separator_new(GTK_ORIENTATION_HORIZONTAL));
	size("spin", gtk_spin_button_new_with_range(0, 9, 1));
	return 0;
}
