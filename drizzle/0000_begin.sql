CREATE TABLE `analyses` (
	`file_hash` text PRIMARY KEY NOT NULL,
	`analysis_version` integer NOT NULL,
	`summary` text NOT NULL,
	`created_at` integer DEFAULT (unixepoch('subsec') * 1000) NOT NULL,
	FOREIGN KEY (`file_hash`) REFERENCES `files`(`hash`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE TABLE `curves` (
	`file_hash` text NOT NULL,
	`name` text NOT NULL,
	`kind` text NOT NULL,
	`rate` real NOT NULL,
	`data` blob NOT NULL,
	PRIMARY KEY(`file_hash`, `name`),
	FOREIGN KEY (`file_hash`) REFERENCES `files`(`hash`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE TABLE `elements` (
	`id` text PRIMARY KEY NOT NULL,
	`study_id` text NOT NULL,
	`name` text NOT NULL,
	`from_hz` real NOT NULL,
	`to_hz` real NOT NULL,
	`state` text DEFAULT 'not started' NOT NULL,
	`note` text DEFAULT '' NOT NULL,
	`weight` real NOT NULL,
	`position` real NOT NULL,
	FOREIGN KEY (`study_id`) REFERENCES `studies`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE INDEX `elements_study` ON `elements` (`study_id`);--> statement-breakpoint
CREATE TABLE `files` (
	`hash` text PRIMARY KEY NOT NULL,
	`bytes` integer NOT NULL,
	`format` text NOT NULL,
	`duration_seconds` real NOT NULL,
	`sample_rate` integer NOT NULL,
	`channels` integer NOT NULL,
	`warnings` text NOT NULL,
	`plays_in_browsers` integer NOT NULL,
	`claims` text NOT NULL,
	`created_at` integer DEFAULT (unixepoch('subsec') * 1000) NOT NULL
);
--> statement-breakpoint
CREATE TABLE `jobs` (
	`file_hash` text PRIMARY KEY NOT NULL,
	`state` text NOT NULL,
	`refusal` text,
	`created_at` integer DEFAULT (unixepoch('subsec') * 1000) NOT NULL,
	FOREIGN KEY (`file_hash`) REFERENCES `files`(`hash`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE TABLE `studies` (
	`id` text PRIMARY KEY NOT NULL,
	`title` text NOT NULL,
	`aspect_weights` text NOT NULL,
	`created_at` integer DEFAULT (unixepoch('subsec') * 1000) NOT NULL
);
--> statement-breakpoint
CREATE TABLE `tracks` (
	`id` text PRIMARY KEY NOT NULL,
	`study_id` text NOT NULL,
	`role` text NOT NULL,
	`number` integer NOT NULL,
	`file_hash` text NOT NULL,
	`file_name` text NOT NULL,
	`note` text DEFAULT '' NOT NULL,
	`created_at` integer DEFAULT (unixepoch('subsec') * 1000) NOT NULL,
	FOREIGN KEY (`study_id`) REFERENCES `studies`(`id`) ON UPDATE no action ON DELETE cascade,
	FOREIGN KEY (`file_hash`) REFERENCES `files`(`hash`) ON UPDATE no action ON DELETE no action
);
--> statement-breakpoint
CREATE UNIQUE INDEX `tracks_number` ON `tracks` (`study_id`,`number`);--> statement-breakpoint
CREATE INDEX `tracks_file` ON `tracks` (`file_hash`);