CREATE TABLE `grid_corrections` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`place_id` text NOT NULL,
	`correction` text NOT NULL,
	`created_at` integer DEFAULT (unixepoch('subsec') * 1000) NOT NULL
);
--> statement-breakpoint
CREATE INDEX `grid_corrections_place` ON `grid_corrections` (`place_id`);--> statement-breakpoint
CREATE TABLE `lined_up` (
	`track_id` text PRIMARY KEY NOT NULL,
	`key` text NOT NULL,
	`result` text NOT NULL,
	`created_at` integer DEFAULT (unixepoch('subsec') * 1000) NOT NULL,
	FOREIGN KEY (`track_id`) REFERENCES `tracks`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE TABLE `stems` (
	`id` text PRIMARY KEY NOT NULL,
	`track_id` text NOT NULL,
	`element_id` text,
	`file_hash` text NOT NULL,
	`file_name` text NOT NULL,
	`measured_offset` text,
	`offset_seconds` real,
	`created_at` integer DEFAULT (unixepoch('subsec') * 1000) NOT NULL,
	FOREIGN KEY (`track_id`) REFERENCES `tracks`(`id`) ON UPDATE no action ON DELETE cascade,
	FOREIGN KEY (`file_hash`) REFERENCES `files`(`hash`) ON UPDATE no action ON DELETE no action
);
--> statement-breakpoint
CREATE INDEX `stems_track` ON `stems` (`track_id`);--> statement-breakpoint
CREATE INDEX `stems_file` ON `stems` (`file_hash`);--> statement-breakpoint
ALTER TABLE `studies` ADD `intended` text;--> statement-breakpoint
ALTER TABLE `tracks` ADD `coverage` text;--> statement-breakpoint
ALTER TABLE `files` DROP COLUMN `plays_in_browsers`;