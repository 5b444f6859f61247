/* What FreeType makes of glyphs. FONT INDEX SIZE MODE FIRST COUNT: of each glyph a line,
 * "points" (as the font's instructions set them, 26.6, with * on the outline) or a picture
 * "grey" or "lcd" without hinting: left top width rows and the coverage in hex. "permission" prints
 * what the file says of being put into documents. */
#include <ft2build.h>
#include FT_FREETYPE_H
#include FT_LCD_FILTER_H
#include FT_OUTLINE_H
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

int main(int argc, char **argv) {
	FT_Library lib;
	FT_Face face;
	if (argc != 7 || FT_Init_FreeType(&lib) || FT_New_Face(lib, argv[1], atoi(argv[2]), &face)) return 2;
	if (FT_Set_Char_Size(face, (FT_F26Dot6)(atof(argv[3]) * 64 + 0.5), 0, 72, 72)) return 3;
	if (!strcmp(argv[4], "permission")) {
		printf("%d\n", FT_Get_FSType_Flags(face));
		return 0;
	}
	int points = !strcmp(argv[4], "points"), lcd = !strcmp(argv[4], "lcd");
	if (lcd && FT_Library_SetLcdFilter(lib, FT_LCD_FILTER_DEFAULT)) return 4;
	int first = atoi(argv[5]), last = first + atoi(argv[6]);
	for (int i = first; i < last && i < face->num_glyphs; i++) {
		int flags = FT_LOAD_NO_BITMAP | (points ? FT_LOAD_NO_AUTOHINT : FT_LOAD_NO_HINTING);
		if (FT_Load_Glyph(face, i, flags)) {
			printf("%d failed\n", i);
			continue;
		}
		printf("%d", i);
		FT_GlyphSlot g = face->glyph;
		if (points) {
			for (int k = 0; k < g->outline.n_points; k++)
				printf(" %ld,%ld%s", g->outline.points[k].x, g->outline.points[k].y, g->outline.tags[k] & 1 ? "*" : "");
		} else {
			if (FT_Render_Glyph(g, lcd ? FT_RENDER_MODE_LCD : FT_RENDER_MODE_NORMAL)) return 5;
			printf(" %d %d %d %d ", g->bitmap_left, g->bitmap_top, lcd ? (int)g->bitmap.width / 3 : (int)g->bitmap.width, (int)g->bitmap.rows);
			for (unsigned y = 0; y < g->bitmap.rows; y++)
				for (unsigned x = 0; x < g->bitmap.width; x++) printf("%02x", g->bitmap.buffer[(int)y * g->bitmap.pitch + (int)x]);
		}
		printf("\n");
	}
	return 0;
}
