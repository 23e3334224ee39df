ALTER TABLE `items` ADD `place` real;--> statement-breakpoint
ALTER TABLE `studies` ADD `style_aspects` text;