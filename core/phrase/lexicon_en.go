package phrase

import (
	"regexp"
	"strings"
)

// inEnglish is the words by which shapes are told in English.
var inEnglish = lexicon{
	questions: set("who what when where which why how can could do does did is are was were should would will"),
	lists:     set("best top good great greatest ideal recommended favorite favourite popular leading decent reliable"),
	verdicts: set("review reviews worth rating ratings rated legit verdict opinion opinions recommendation " +
		"recommendations ranking rankings ranked tested picks showdown gift gifts complaints"),
	locals: set("nearby local nearest"),
	buying: set("buy price prices priced pricing cheap cheapest affordable sale sales deal deals discount discounts " +
		"coupon coupons voucher vouchers promo order preorder shop shops store stores shipping delivery bundle rental " +
		"rent renting used hire secondhand preowned pre-owned refurbished clearance wholesale bulk supplier suppliers " +
		"stockist stockists pickup auction auctions classifieds outlet finance cost costs quote tickets " +
		"subscription download"),
	sites: set("login website site homepage account portal forum official address hours support helpdesk contact " +
		"warranty registration register catalogue catalog locator pdf handbook firmware recall careers " +
		"newsletter membership returns blog archive webcam dealer dealers faq"),
	prepositions: set("for with without from on in at under over near against about of by " +
		"through into after before during"),
	phrases: map[Shape][]string{
		Comparison: {" vs ", " versus ", " or ", " compared to ", " compared with ", " comparison ", " difference between ",
			" alternative to ", " alternatives to ", " better than ", " against ", " pros and cons ", " which ",
			" should i get ", " should i buy ", " should i choose ", " buying guide ", " buyers guide "},
		HowTo: {" how to ", " how do i ", " how do you ", " diy ", " step by step ", " tutorial ", " make your own ",
			" way to ", " ways to "},
		Local: {" near me "},
		Verdict: {" worth it ", " worth the money ", " any good ", " is there a good ", " easy to use ", " before buying ",
			" editors choice ", " test of ", " which is better ", " is best ", " anyone tried ", " anyone used ",
			" has anyone ", " thoughts on ", " experience with ", " experiences with ", " good brand ", " overrated ",
			" are best "},
		Buying: {" second hand ", " in stock ", " black friday ", " gift card ", " gift set ", " lay by ", " trade in ",
			" flea market ", " where can i get ", " where to get ",
			" pre owned ", " pick up in store ", " by the yard ", " by the metre ", " by the pound "},
		Site: {" phone number ", " customer service ", " customer care ", " head office ",
			" sign in ", " sign up ", " log in ",
			" opening times ", " user guide ", " spare parts ", " parts list ",
			" owners manual ", " instruction manual ", " manual for ", " return policy ", " track my order "},
	},
	last:        set("manual manuals phone association society federation guild club clubhouse headquarters"),
	lastBuying:  set("online"),
	comparative: regexp.MustCompile(`\b([a-z]{3,}er|more [a-z]+|less [a-z]+|worse) than\b`),
	blind: strings.NewReplacer(" store bought ", " ", " shop bought ", " ", " to store ", " ", " i store ", " ",
		" you store ", " ", " used for ", " ", " used to ", " ", " best time ", " ", " best place ", " ",
		" best places ", " ", " best things ", " ",
		" other than ", " other ", " rather than ", " ", " later than ", " ", " longer than ", " ",
		" best way ", " way ", " easiest way ", " way ",
		" fastest way ", " way "),
	function: set("a an the of for to in on at by with from and or as is are was were be been do does did " +
		"can could should would will it its this that these those i you my your me we our how what which " +
		"when where why who whom into onto than then there their if so"),
	light: set("get gets got getting need needs needed make makes made making use uses used using do does doing go goes " +
		"going want wants have has having see seen set put take takes keep keeps know let try up down out off much many " +
		"more most less very too also just not no vs versus kind kinds sort sorts thing things way ways"),
	places: placesInEnglish, doubtful: doubtfulInEnglish, nearIn: nearInEnglish,
	firsts:    firstWords(placesInEnglish, doubtfulInEnglish),
	negations: set("not no"),
	asking: set("best top good great greatest ideal recommended recommend recommendations recommendation favorite " +
		"favourite popular leading decent reliable review reviews rating ratings rated ranking rankings ranked tested " +
		"tests picks opinion opinions verdict comparison comparisons compare compared guide guides brand brands option " +
		"options choice choices buy buying price prices priced pricing cheap cheapest affordable sale sales deal deals " +
		"cost costs recipe recipes homemade diy tutorial tutorials instructions instruction steps step easy easily simple " +
		"simply quick quickly fast basic basics ideas idea tips tip tricks trick advice help explained explanation " +
		"meaning definition define mean means example examples list lists type types look looks like through enough " +
		"possible really actually exactly right proper properly correctly correct made scratch"),
	most: "most",
	superlative: func(w string) bool {
		return len(w) > 5 && strings.HasSuffix(w, "est") && !notSuperlative[w]
	},
}

var notSuperlative = set("forest harvest request requests guest contest honest interest latest nearest invest " +
	"protest digest suggest priest modest northwest southwest midwest arrest conquest bequest manifest everest tempest " +
	"detest earnest behest")
