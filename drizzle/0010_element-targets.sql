ALTER TABLE `elements` ADD `target` real;--> statement-breakpoint
ALTER TABLE `elements` ADD `hidden` integer DEFAULT false NOT NULL;