CREATE TABLE `watches` (
	`study_id` text PRIMARY KEY NOT NULL,
	`folder` text NOT NULL,
	`seen` text NOT NULL,
	FOREIGN KEY (`study_id`) REFERENCES `studies`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
ALTER TABLE `items` ADD `starred` integer DEFAULT false NOT NULL;--> statement-breakpoint
ALTER TABLE `studies` ADD `target` real;--> statement-breakpoint
ALTER TABLE `studies` ADD `folder` text;