CREATE TABLE `lenses` (
	`item_id` text PRIMARY KEY NOT NULL,
	`key` text NOT NULL,
	`result` text NOT NULL,
	`created_at` integer DEFAULT (unixepoch('subsec') * 1000) NOT NULL,
	FOREIGN KEY (`item_id`) REFERENCES `items`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE TABLE `lifts` (
	`file_hash` text PRIMARY KEY NOT NULL,
	`key` text NOT NULL,
	`result` text NOT NULL,
	`powers` blob NOT NULL,
	`created_at` integer DEFAULT (unixepoch('subsec') * 1000) NOT NULL,
	FOREIGN KEY (`file_hash`) REFERENCES `files`(`hash`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
ALTER TABLE `elements` ADD `lens` text;
--> statement-breakpoint
UPDATE `elements` SET `lens` = CASE `name`
	WHEN 'Kick' THEN 'kick'
	WHEN 'Bass' THEN 'bass'
	WHEN 'Snare or clap' THEN 'snare'
	WHEN 'Hats' THEN 'hats'
	WHEN 'Percussion' THEN 'percussion'
	WHEN 'Chords' THEN 'music'
	WHEN 'Lead or vocal' THEN 'music'
	WHEN 'Effects' THEN 'music'
END;
