/* Prints for each pointer of standard input the files that GTK 4 opens for it, in their order, and no
   others that are opened. */
#define _GNU_SOURCE
#include <dlfcn.h>
#include <gtk/gtk.h>
#include <stdio.h>
#include <string.h>
static int telling;

FILE *fopen(const char *path, const char *mode)
{
    static FILE *(*real)(const char *, const char *);
    if (!real)
        real = (FILE *(*)(const char *, const char *))dlsym(RTLD_NEXT, "fopen");
    const char *at = strstr(path, "/cursors/");
    if (telling && at)
        printf(" %s", at + 9);
    return real(path, mode);
}

static void turn(void)
{
    for (int i = 0; i < 5; i++) {
        g_main_context_iteration(NULL, FALSE);
        g_usleep(1000);
    }
}

int main(int argc, char **argv)
{
    gtk_init();
    GtkWidget *w = gtk_window_new(); /* the pointer is in it: it covers the screen */
    gtk_window_set_default_size(GTK_WINDOW(w), 640, 480);
    gtk_window_present(GTK_WINDOW(w));
    telling = 1;
    gtk_widget_set_cursor_from_name(w, "none");
    printf("-");
    for (int i = 0; i < 100; i++)
        turn();
    printf("\n");
    char name[100];
    while (scanf("%99s", name) == 1) {
        printf("%s", name);
        gtk_widget_set_cursor_from_name(w, name);
        turn();
        printf("\n");
    }
    return 0;
}
