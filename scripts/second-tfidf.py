"""Writes core/about/testdata/tfidf.json: weights as scikit-learn's TfidfVectorizer has them (python3-sklearn).

Run it from the project's folder: python3 scripts/second-tfidf.py
"""

import json
import random

import sklearn
from sklearn.feature_extraction.text import TfidfVectorizer

WORDS = "moon map star wheel telescope mount filter kit saturn ring night chart lens mirror eyepiece".split()

chance = random.Random(7)
texts = [" ".join(chance.choice(WORDS) for _ in range(chance.randint(1, 60))) for _ in range(12)]
vectorizer = TfidfVectorizer(ngram_range=(1, 2), token_pattern=r"\S+")
weights = vectorizer.fit_transform(texts).toarray()
names = vectorizer.get_feature_names_out()
documents = [
    {"text": text, "weights": {name: round(float(w), 12) for name, w in zip(names, row) if w > 0}}
    for text, row in zip(texts, weights)
]
with open("core/about/testdata/tfidf.json", "w", encoding="utf-8") as out:
    json.dump({"made_with": f"scikit-learn {sklearn.__version__}", "documents": documents}, out, indent=0)
    out.write("\n")
