package web

import (
	"compress/gzip"

	"github.com/labstack/echo/v5"
	"github.com/labstack/echo/v5/middleware"
)

// routes lists every address, by who may use it.
func (s *Server) routes() {
	s.GET("/static/*", serveStatic)
	s.GET("/worker.js", serveWorker)

	// Pages are made new for each request: a quick pass takes most of the air out.
	compress := middleware.GzipWithConfig(middleware.GzipConfig{Level: gzip.BestSpeed})

	// Everybody. Changes need the token of a form that was served.
	sessions := echo.WrapMiddleware(s.sessions.LoadAndSave)
	public := s.Group("", compress, sessions, s.sameSite, s.csrf())
	public.GET("/sign-in", s.signInPage)
	public.POST("/sign-in", s.signIn)
	public.GET("/set-up", s.setUpPage)
	public.POST("/set-up", s.setUp)
	public.GET("/recover", s.recoverPage)
	public.POST("/recover", s.recover)

	// The student, by the secret in the address. What may be sent is what this site
	// itself sends; there is no token that a page left open could outlive.
	student := s.Group("/s/:token", compress, sameOrigin, s.byLink)
	student.GET("", s.practicePage, s.heavy)
	student.POST("/entries", s.logPractice)
	student.GET("/log", s.practiceLog)
	student.POST("/entries/:entry", s.mendEntry)
	student.GET("/music/:assignment", s.practiceSound, s.heavy)

	// The teacher, in their own studio.
	t := s.Group("", compress, sessions, s.sameSite, s.csrf(), s.signedIn)
	t.POST("/sign-out", s.signOut)
	t.GET("/", s.today)
	t.POST("/example", s.addExample)
	t.POST("/example/remove", s.removeExample)

	t.GET("/songs", s.songs)
	t.POST("/songs", s.addSong)
	t.POST("/songs/preview", s.previewSheet, s.heavy)
	t.POST("/songs/tap", s.tapRhythm)
	t.GET("/songs/bring", s.bringPage)
	t.POST("/songs/bring", s.bring)
	t.GET("/songs/bring/:thing", s.broughtPage, s.heavy)
	t.POST("/songs/take-over", s.takeBrought)
	t.GET("/songs/:song", s.songPage, s.heavy)
	t.GET("/songs/:song/take", s.takeSong, s.heavy)
	t.POST("/songs/:song", s.saveSong)
	t.POST("/songs/:song/draft", s.saveDraft)
	t.POST("/songs/:song/draft/discard", s.discardDraft)
	t.POST("/songs/:song/draft/use", s.useDraft)
	t.POST("/songs/:song/typed/:typed", s.takeTyped)
	t.POST("/songs/:song/delete", s.deleteSong)
	t.POST("/songs/:song/restore", s.restoreSong)
	t.GET("/songs/:song/versions", s.songVersions, s.heavy)
	t.GET("/songs/:song/versions/:version", s.songVersion, s.heavy)
	t.POST("/songs/:song/versions/:version", s.takeVersion)
	t.GET("/songs/:song/rungs", s.rungs, s.heavy)
	t.POST("/songs/:song/rungs", s.changeWay, s.heavy)
	t.GET("/songs/:song/music", s.songSound, s.heavy)
	t.GET("/songs/:song/chords", s.chords, s.heavy)
	t.POST("/songs/:song/chords", s.chooseVoicing, s.heavy)
	t.POST("/songs/:song/transpose", s.transposeSong)
	t.POST("/songs/:song/lessons", s.addLesson)

	t.GET("/lessons/:lesson", s.lessonPage, s.heavy)
	t.POST("/lessons/:lesson", s.saveLesson, s.heavy)
	t.GET("/lessons/:lesson/music", s.lessonSound, s.heavy)
	t.POST("/lessons/:lesson/steps", s.changeSteps, s.heavy)
	t.POST("/lessons/:lesson/assign", s.assign)
	t.POST("/lessons/:lesson/delete", s.deleteLesson)
	t.POST("/lessons/:lesson/restore", s.restoreLesson)
	t.GET("/lessons/:lesson/take", s.takeLesson, s.heavy)
	t.GET("/lessons/:lesson/handout", s.handout, s.heavy)
	t.POST("/lessons/:lesson/handout", s.addCodes)
	t.GET("/handouts", s.handoutsOfDay, s.heavy)
	t.POST("/handouts", s.addCodes)

	t.GET("/students", s.students)
	t.POST("/students", s.addStudent)
	t.GET("/students/:student", s.studentPage)
	t.POST("/students/:student", s.saveStudent)
	t.POST("/students/:student/delete", s.deleteStudent)
	t.POST("/students/:student/restore", s.restoreStudent)
	t.POST("/students/:student/erase", s.eraseStudent)
	t.GET("/students/:student/export", s.exportStudent)
	t.POST("/students/:student/entries/delete", s.deleteEntries)
	t.POST("/students/:student/links", s.addLink)
	t.POST("/students/:student/links/:link/end", s.endLink)
	t.POST("/students/:student/assignments/:assignment/update", s.updateAssignment)
	t.POST("/students/:student/assignments/:assignment/end", s.endAssignment)
	t.POST("/students/:student/assignments/:assignment/resume", s.resumeAssignment)
	t.POST("/students/:student/entries/:entry/delete", s.deleteEntry)

	t.GET("/desk", s.desk, s.heavy)
	t.GET("/notation", s.notation)

	t.GET("/settings", s.settings)
	t.POST("/settings", s.saveSettings)
	t.POST("/settings/password", s.savePassword)
	t.POST("/settings/email", s.saveEmail)
	t.GET("/settings/codes", s.codesPage)
	t.POST("/settings/codes", s.newCodes)
	t.GET("/settings/export", s.export)
	t.GET("/settings/students.csv", s.studentsTable)
	t.GET("/settings/lessons.csv", s.lessonsTable)
	t.GET("/settings/practice.csv", s.practiceTable)
	t.GET("/settings/timetable.ics", s.timetable)
	t.POST("/settings/return", s.giveBack)
	t.GET("/settings/return/:thing", s.returnedPage)
	t.POST("/settings/take-in", s.takeIn)
}
