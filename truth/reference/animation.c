/* Prints what gdk-pixbuf's own loaders read from the files named: of each file its steps.
 *
 *   FILE STEP DELAY WIDTH HEIGHT XHOT YHOT SUM
 *
 * up to as many steps as its name says in front of a colon (12:FILE). DELAY is in ms, 0 for one
 * that stands still. XHOT and YHOT are "-" where the loader does not say. SUM adds up the bytes of
 * what is not wholly transparent, each times its place, so that a swap shows.
 */
#include <gdk-pixbuf/gdk-pixbuf.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

static void frame(const char *file, int step, int delay, GdkPixbuf *p)
{
    int w = gdk_pixbuf_get_width(p), h = gdk_pixbuf_get_height(p), n = gdk_pixbuf_get_n_channels(p);
    const char *x = gdk_pixbuf_get_option(p, "x_hot"), *y = gdk_pixbuf_get_option(p, "y_hot");
    unsigned long long sum = 0, at = 0;
    for (int row = 0; row < h; row++) {
        const guchar *line = gdk_pixbuf_read_pixels(p) + row * gdk_pixbuf_get_rowstride(p);
        for (int col = 0; col < w; col++) {
            const guchar *c = line + col * n;
            int alpha = n == 4 ? c[3] : 255;
            for (int k = 0; k < 4; k++) {
                at++;
                if (alpha)
                    sum += (unsigned long long)(k == 3 ? alpha : c[k]) * at;
            }
        }
    }
    printf("%s %d %d %d %d %s %s %llu\n", file, step, delay, w, h, x ? x : "-", y ? y : "-", sum);
}

int main(int argc, char **argv)
{
    for (int i = 1; i < argc; i++) {
        char *file = strchr(argv[i], ':') + 1;
        int steps = atoi(argv[i]);
        GError *error = NULL;
        GdkPixbufAnimation *a = gdk_pixbuf_animation_new_from_file(file, &error);
        if (!a) {
            printf("%s - %s\n", file, error->message);
            g_clear_error(&error);
            continue;
        }
        if (gdk_pixbuf_animation_is_static_image(a)) {
            frame(file, 0, 0, gdk_pixbuf_animation_get_static_image(a));
        } else {
            GTimeVal now = {1000, 0};
            GdkPixbufAnimationIter *iter = gdk_pixbuf_animation_get_iter(a, &now);
            for (int s = 0; s < steps; s++) {
                int delay = gdk_pixbuf_animation_iter_get_delay_time(iter);
                frame(file, s, delay, gdk_pixbuf_animation_iter_get_pixbuf(iter));
                g_time_val_add(&now, delay * 1000L);
                gdk_pixbuf_animation_iter_advance(iter, &now);
            }
            g_object_unref(iter);
        }
        g_object_unref(a);
    }
    return 0;
}
